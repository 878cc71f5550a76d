// Plants small faults in the engine, one at a time, in a copy of the project, and shows that the tests catch each.
import { execFileSync, spawnSync } from "node:child_process";
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));

/** File in core/engine, what stands there (once), and the fault. */
const FAULTS = [
  [
    "account.ts",
    "let price = slipped ? base + side * leg.slip : base;",
    "let price = slipped ? base - side * leg.slip : base;",
    "slippage in one's favour",
  ],
  ["account.ts", "const out = base - side * 2 * leg.halfSpread;", "const out = base;", "the wrong side is looked at without the spread"],
  ["account.ts", "let recorded = slipped ? price - side * leg.slip : price;", "let recorded = price;", "exits without slippage"],
  ["account.ts", 'leg.orders.length > 0 && leg.onOpposite !== "ignore"', "leg.orders.length > 0", "ignored signals drop orders"],
  ["account.ts", "return used > equity + 1e-9 * Math.abs(equity);", "return used >= equity * 0.98;", "margin events too early"],
  ["admission.ts", "if (held > member.marketLimit)", "if (held > member.marketLimit + 1)", "room for one more"],
  ["admission.ts", "Math.floor(units / step + 1e-9) * step", "Math.round(units / step) * step", "units are rounded, not cut"],
  ["admission.ts", "(base * value) / 100 / (risk * pointValue)", "(base * value) / 100 / risk", "risk without the point value"],
  ["admission.ts", "risk = side * (price - level);", "risk = Math.abs(price - level) + 1;", "a wrong distance to a price level"],
  [
    "inside.ts",
    "stopped = side * (worst - stop) <= epsilon;\n      reached",
    "stopped = side * (last - stop) <= epsilon;\n      reached",
    "pessimistic about the entry bar's close only",
  ],
  [
    "inside.ts",
    "if (stopped && !(reached && optimistic)) this.leave(leg, trade, log.stop[trade], true);",
    "if (stopped && !reached) this.leave(leg, trade, log.stop[trade], true);",
    "the target wins when both are in range",
  ],
  ["inside.ts", "k === first ? number : this.begin()", "number", "an order stays barred in later fine bars"],
  ["inside.ts", "if (leg.side !== 0) this.gap(leg, this.bar.open);", "", "no gap check at a fine open"],
  ["inside.ts", "if (away < distance - leg.epsilon) {", "if (away > distance || distance === Infinity) {", "the farther order fills first"],
  ["levels.ts", 'if (how === BY_LIMIT && mode === "pessimistic") extreme = NaN;', "", "the entry bar counts for the trail after a limit"],
  [
    "levels.ts",
    "if (!(side * (log.trail[trade] - trail) > 0)) log.trail[trade] = trail;",
    "log.trail[trade] = best;",
    "the trail lies at the best price",
  ],
  ["levels.ts", "gone >= log.trigger[trade] - epsilon", "gone > 2 * log.trigger[trade]", "break-even armed too late"],
  [
    "levels.ts",
    "if (side * (level - log.ownStop[trade]) > 0) log.ownStop[trade] = level;",
    "log.ownStop[trade] = level;",
    "a following stop loosens",
  ],
  [
    "levels.ts",
    "log.target[trade] = target;",
    "log.target[trade] = target === target ? target + side * leg.epsilon * 4 : target;",
    "targets a hair too far",
  ],
  [
    "orders.ts",
    "return higher ? Math.max(open, order.price) : Math.min(open, order.price);",
    "return order.price;",
    "gapped orders fill at their own price",
  ],
  [
    "orders.ts",
    "return order.through ? better > epsilon : better >= -epsilon;",
    "return better >= -epsilon;",
    "limit orders fill when touched",
  ],
  ["simulate.ts", "if (days > 0) this.finance(leg, days);", "if (days > 0) this.finance(leg, 1);", "a weekend costs one night"],
  [
    "simulate.ts",
    "if (order.signalRow < leg.row && --order.barsLeft <= 0)",
    "if (order.signalRow < leg.row && --order.barsLeft < 0)",
    "orders work a bar too long",
  ],
  ["simulate.ts", ">= leg.plan.maxBarsHeld)", "> leg.plan.maxBarsHeld)", "held a bar too long"],
  ["simulate.ts", "if (equity <= this.run.account.haltBelow)", "if (equity < 0)", "halted only below nothing"],
  ["simulate.ts", "const inR = position.openProfit / log.stopDistance[trade];", "const inR = position.openProfit;", "openR in points"],
  [
    "simulate.ts",
    "position.barsHeld = leg.row - log.entryRow[trade];",
    "position.barsHeld = leg.row - log.entryRow[trade] + 1;",
    "barsHeld from one",
  ],
  ["simulate.ts", "return x === y ? 0 : y > x ? 1 : -1;", "return x === y ? 0 : y > x ? -1 : 1;", "lowest priority first"],
  [
    "simulate.ts",
    "(leg.sidePlan(side).atClose || (bits & LAST) === 0)",
    "(bits & LAST) === 0",
    "same-close entries past the time of the exit",
  ],
  [
    "walk-path.ts",
    "const highFirst = high - open < open - low - leg.epsilon;",
    "const highFirst = high - open <= open - low;",
    "high first where both are as near",
  ],
  ["walk-path.ts", "if (direction === -side) {", "if (direction === side) {", "stops are met on the way up"],
  ["time-exits.ts", "if (end >= moment(date, exits.time))", "if (end > moment(date, exits.time))", "timed exits a bar late"],
  ["time-exits.ts", "!(day === from && met)", "!met", "a missed week after a met one"],
  [
    "ticks.ts",
    "Math.ceil(price / tick - 0.5 - 1e-6) * tick",
    "Math.floor(price / tick + 0.5) * tick",
    "halves in one's favour when selling",
  ],
  [
    "quiet.ts",
    "log.entryRow[trade] + plan.maxBarsHeld,",
    "log.entryRow[trade] + plan.maxBarsHeld + 1,",
    "a quiet stretch runs past the last bar held",
  ],
  ["quiet.ts", "else if (balance <= run.account.haltBelow) return t < length;", "", "a halt waits for the next signal"],
  [
    "quiet.ts",
    "if (side === 1) below = Math.max(below, halted + near);",
    "if (false) below = 0;",
    "a halt is passed over while a long is held",
  ],
  ["quiet.ts", "s.exposure.peak(leg.side, share(bottom));", "", "the largest position is looked for at the highest close alone"],
  ["direct.ts", "if (stopped && !(reached && optimistic))", "if (stopped && !reached)", "the short way lets the target win"],
  ["direct.ts", "if (clash) return;", "", "the short way enters where both sides ask"],
  [
    "direct.ts",
    "leg.side === -asked && leg.due === 0 ? leg.margin(",
    "leg.side === -asked ? leg.margin(",
    "the short way counts the margin of what leaves",
  ],
  ["direct.ts", "return tooFew(reduced, spec) ? 0 : reduced;", "return reduced;", "the short way enters below the least size"],
];

const only = process.argv[2];
const folder = mkdtempSync(join(tmpdir(), "canyon-mutants-"));
const names = execFileSync("git", ["ls-files", "core", "fixtures", "package.json", "tsconfig.json", "vitest.config.ts"], {
  cwd: root,
  encoding: "utf8",
})
  .trim()
  .split("\n");
for (const name of names) cpSync(join(root, name), join(folder, name));
symlinkSync(join(root, "node_modules"), join(folder, "node_modules"));

const test = () =>
  spawnSync("npx", ["vitest", "run", "--project", "unit", "--bail", "1", "core/engine", "core/runs/fixtures"], {
    cwd: folder,
    env: { ...process.env, CASES: process.env.CASES ?? "500" },
    encoding: "utf8",
  });

let missed = 0;
try {
  if (test().status !== 0) throw new Error("the tests fail without any fault; mend that first");
  for (const [file, good, bad, what] of FAULTS) {
    if (only !== undefined && !`${file} ${what}`.includes(only)) continue;
    const path = join(folder, "core/engine", file);
    const text = readFileSync(path, "utf8");
    if (text.split(good).length !== 2) throw new Error(`${file} holds not one but ${text.split(good).length - 1} of: ${good}`);
    writeFileSync(
      path,
      text.replace(good, () => bad),
    );
    const caught = test().status !== 0;
    writeFileSync(path, text);
    if (!caught) missed++;
    console.log(`${caught ? "caught" : "MISSED"}  ${file}: ${what}`);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
console.log(`${FAULTS.length} faults, ${missed} missed`);
process.exit(missed === 0 ? 0 : 1);
