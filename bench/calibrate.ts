import { availableParallelism } from "node:os";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { isMainThread, parentPort, Worker, workerData } from "node:worker_threads";
import { formatDate, type Bars } from "#core/bars";
import { READY_MADE_CASCADES, spanOfBars, stageInput, windowOf, type Stage } from "#core/cascades";
import { readSettings, type Settings, type Strategy } from "#core/documents";
import { judge, prepareSearch, runSearch, searchSettings } from "#core/optimize";
import { ownSearch, PROBES, readInput, runProbe } from "#core/probes";
import { saltmarchDates } from "../demo/calendar";
import { makeBars } from "../demo/generator";
import { DEMO_STRATEGIES } from "../demo/strategies";

/** How much of a day's usual move leans the way of the stretch, for the markets with an edge; 0 for those without. */
const PULL = 0.13;
const STRETCH = 50;
/** Share of the dates on which a version's values are chosen; the rest is out of sample for it. */
const CHOSEN_ON = 0.7;
const LAST = Date.UTC(2024, 11, 31) / 86_400_000;

/** Every stage of the shipped cascades once, and some probes that none of them asks. */
const STAGES: readonly Stage[] = [
  ...new Map(
    [
      ...READY_MADE_CASCADES.flatMap(({ stages }) => stages),
      { probe: "shakenData", input: { way: "drawn", runs: 60, days: 60, criteria: { share: 50 } } },
      {
        probe: "walkForwardMap",
        input: { windows: [6, 8, 10], outShare: [20, 25, 30], efficiency: 20, profitable: 50, largestShare: 80, criteria: { depth: 2 } },
      },
    ].map((stage) => [JSON.stringify(stage), stage as Stage]),
  ).values(),
];

interface Told {
  market: number;
  edge: boolean;
  /** by stage; null where the probe could not be asked */
  passed: (boolean | null)[];
}

/** The demo's channel, with its stop as it stands: two ranges make searches that can be repeated thousands of times. */
const strategy: Strategy = {
  ...DEMO_STRATEGIES[0].strategy,
  parameters: DEMO_STRATEGIES[0].strategy.parameters!.map((one) =>
    one.name === "stopDistance" ? { name: one.name, kind: one.kind, value: one.value } : one,
  ),
};

function marketOf(market: number, edge: boolean): { bars: Bars; settings: Settings } {
  const character = {
    seed: 40_000 + 2 * market + Number(edge),
    start: 240,
    tick: 0.5,
    volatility: 0.013,
    tails: 5,
    drift: 0,
    volume: 8000,
    missing: 0.001,
  };
  const bars = makeBars({ ...character, trend: edge ? { days: STRETCH, pull: PULL } : { days: 0, pull: 0 } }, saltmarchDates(LAST));
  const settings = readSettings({
    format: "canyon.settings/1",
    markets: [{ symbol: "MADE", bars: "made", timeframe: "1d", tick: 0.5, pointValue: 50, margin: { mode: "fraction", value: 0.1 } }],
    capital: 250_000,
    costs: { perUnit: 2, spreadTicks: 1, slippageTicks: 1 },
  }).value!;
  return { bars, settings };
}

/** The version that a practitioner would bring: the best of its ranges on the first part of the dates. */
function chosen(bars: Bars, settings: Settings): Strategy {
  const search = ownSearch(strategy)!;
  const [from, to] = windowOf(settings, [spanOfBars(bars)]);
  const part = searchSettings(settings, undefined, formatDate(Math.round(from + CHOSEN_ON * (to - from))));
  const prepared = prepareSearch(strategy, part, search, [bars]).value!;
  const { trials, combinations } = runSearch(prepared);
  const { best } = judge(
    prepared,
    trials.map((trial) => trial.metrics),
    combinations,
  );
  const values = best === null ? {} : trials[best].values;
  return { ...strategy, parameters: strategy.parameters!.map((one) => ({ ...one, value: values[one.name] ?? one.value })) };
}

function tell(market: number, edge: boolean): Told {
  const { bars, settings } = marketOf(market, edge);
  const version = chosen(bars, settings);
  const window = windowOf(settings, [spanOfBars(bars)]);
  const passed = STAGES.map((stage) => {
    const kind = PROBES.get(stage.probe)!;
    const { value } = readInput(kind, stageInput(stage, version, window));
    const { outcome } =
      value === null ? { outcome: null } : runProbe(kind, value, { strategy: version, settings, bars: [bars], others: [] });
    return outcome === null ? null : outcome.verdict === "passed";
  });
  return { market, edge, passed };
}

if (!isMainThread) {
  const { first, step, count } = workerData as { first: number; step: number; count: number };
  for (let market = first; market < count; market += step) for (const edge of [false, true]) parentPort!.postMessage(tell(market, edge));
} else await main();

async function main(): Promise<void> {
  const asked = process.argv.indexOf("--markets");
  const count = asked < 0 ? 200 : Number(process.argv[asked + 1]);
  if (!Number.isInteger(count) || count < 1) throw new Error("--markets takes a whole number from 1 on");
  const began = Date.now();
  const told: Told[] = [];
  const threads = availableParallelism();
  await Promise.all(
    Array.from(
      { length: threads },
      (_, first) =>
        new Promise<void>((resolve, reject) => {
          const worker = new Worker(new URL(import.meta.url), { workerData: { first, step: threads, count } });
          worker.on("message", (one: Told) => {
            told.push(one);
            if (told.length % 20 === 0)
              process.stderr.write(`${told.length} of ${2 * count} markets, ${Math.round((Date.now() - began) / 1000)} s\n`);
          });
          worker.on("error", reject);
          worker.on("exit", () => resolve());
        }),
    ),
  );
  const report = reportOf(told, count, (Date.now() - began) / 60_000);
  process.stdout.write(report);
  if (count === 200) writeFileSync(join(process.cwd(), "docs/calibration.md"), report);
}

function reportOf(told: readonly Told[], count: number, minutes: number): string {
  const share = (edge: boolean, passes: (one: Told) => boolean) =>
    (100 * told.filter((one) => one.edge === edge && passes(one)).length) / count;
  const row = (name: string, asked: string, passes: (one: Told) => boolean) =>
    `| ${name} | ${asked} | ${share(false, passes).toFixed(1)} % | ${share(true, passes).toFixed(1)} % |`;
  const at = (stage: Stage) => STAGES.findIndex((one) => JSON.stringify(one) === JSON.stringify(stage));
  const asked = ({ probe, input: { criteria, way } }: Stage) =>
    `${way === undefined ? "" : `${String(way)}; `}${Object.entries(criteria)
      .map(([key, value]) => `${key} ${PROBES.get(probe)!.criteria.find((one) => one.key === key)!.want === "least" ? "≥" : "≤"} ${value}`)
      .join(", ")}`;
  return [
    "# Calibration",
    "",
    `How often versions without an edge, and with one, pass each probe and each shipped cascade: ${count} made-up markets without anything to find, and ${count} with stretches of about ${STRETCH} days that lean one way by ${PULL} of a day's usual move (as FERRY does). On each the demo's channel strategy is brought as a practitioner would bring it: with the best of its own ranges by profit ÷ drawdown, searched for on the first ${100 * CHOSEN_ON} % of the dates, costs included. The criteria were set before the first run.`,
    "",
    `Printed by \`npm run calibrate\` in ${minutes.toFixed(0)} minutes.`,
    "",
    "| cascade | stages | without an edge | with one |",
    "| --- | --- | ---: | ---: |",
    ...READY_MADE_CASCADES.map(({ name, stages }) =>
      row(name, stages.map(({ probe }) => PROBES.get(probe)!.name).join(" → "), (one) =>
        stages.every((stage) => one.passed[at(stage)] === true),
      ),
    ),
    "",
    "The aim is that at most 5 % of those without an edge come through, and at least 80 % of those with one. What misses it:",
    "",
    ...READY_MADE_CASCADES.flatMap(({ name, stages }) => {
      const through = (one: Told) => stages.every((stage) => one.passed[at(stage)] === true);
      const [without, withOne] = [share(false, through), share(true, through)];
      return [
        ...(without > 5 ? [`- ${name}: ${without.toFixed(1)} % without an edge come through`] : []),
        ...(withOne < 80 ? [`- ${name}: ${withOne.toFixed(1)} % with an edge come through`] : []),
      ];
    }),
    "",
    "| probe, by itself | asked | without an edge | with one |",
    "| --- | --- | ---: | ---: |",
    ...STAGES.map((stage, k) => row(PROBES.get(stage.probe)!.name, asked(stage), (one) => one.passed[k] === true)),
    "",
    `Could not be asked: ${
      STAGES.map((stage, k) => [PROBES.get(stage.probe)!.name, told.filter((one) => one.passed[k] === null).length] as const)
        .filter(([, n]) => n > 0)
        .map(([name, n]) => `${name} on ${n}`)
        .join(", ") || "none"
    }.`,
    "",
  ].join("\n");
}
