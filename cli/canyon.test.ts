import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { PROBES, readInput, runProbe } from "#core/probes";
import { backtest } from "#core/runs";
import { compareResult, expectClose } from "#core/testing/compare";
import { FIXTURES, fixtureBars, fixtureJson } from "#core/testing/fixtures";

const root = join(FIXTURES, "..");
const folder = mkdtempSync(join(tmpdir(), "canyon-cli-"));
const file = (name: string, content: unknown) => {
  const path = join(folder, name);
  writeFileSync(path, typeof content === "string" ? content : JSON.stringify(content));
  return path;
};
const canyon = (...args: string[]) => spawnSync("node", [join(root, "dist/node/canyon.js"), ...args], { encoding: "utf8" });
const fixture = (path: string) => join(FIXTURES, path);

beforeAll(() => {
  execFileSync("node", ["-e", 'import("./scripts/build-node.mjs").then((m) => m.buildNode())'], { cwd: root });
});

describe("canyon backtest", () => {
  const at = "backtests/12-costs-and-financing";

  it("gives the known result on standard output and nothing else", () => {
    const { status, stdout, stderr } = canyon(
      "backtest",
      "--strategy",
      fixture(`${at}/strategy.json`),
      "--settings",
      fixture(`${at}/settings.json`),
    );
    expect(stderr).toBe("");
    expect(status).toBe(0);
    compareResult(JSON.parse(stdout), fixtureJson(`${at}/expected.json`));
  });

  it("gives the same bytes twice, and writes them to --out", () => {
    const args = ["backtest", "--strategy", fixture(`${at}/strategy.json`), "--settings", fixture(`${at}/settings.json`)];
    const out = join(folder, "r.json");
    const first = canyon(...args).stdout;
    expect(canyon(...args, "--out", out).stdout).toBe("");
    expect(readFileSync(out, "utf8")).toBe(first);
  });

  it.each([
    "15-sizing-risk-percent",
    "20-margin-reduce",
    "36-room-next-open-exits-next-open",
    "49-monthly-bars",
    "53-reverse-at-this-close",
  ])("of %s gives the same bytes as the core itself", (folder) => {
    const path = `backtests/${folder}`;
    const settings = readSettings(fixtureJson(`${path}/settings.json`)).value!;
    const { result } = backtest(
      readStrategy(fixtureJson(`${path}/strategy.json`)).value!,
      settings,
      settings.markets.map((market) => fixtureBars(`${path}/${market.bars}`)),
    );
    const { stdout } = canyon("backtest", "--strategy", fixture(`${path}/strategy.json`), "--settings", fixture(`${path}/settings.json`));
    expect(stdout).toBe(`${JSON.stringify(result)}\n`);
  });

  it("refuses unknown keys with file and path, and writes nothing", () => {
    const strategy = file("odd.json", {
      ...fixtureJson(`${at}/strategy.json`),
      colour: "red",
      long: { enter: { when: "close > 1", order: { type: "fancy" } } },
    });
    const out = join(folder, "never.json");
    const { status, stdout, stderr } = canyon(
      "backtest",
      "--strategy",
      strategy,
      "--settings",
      fixture(`${at}/settings.json`),
      "--out",
      out,
    );
    expect(status).toBe(1);
    expect(stdout).toBe("");
    expect(stderr).toContain(`${strategy}: colour: `);
    expect(stderr).toContain(`${strategy}: long.enter.order.type: `);
    expect(existsSync(out)).toBe(false);
  });

  it("names the line and column of an error in a rule", () => {
    const strategy = file("wrong.json", { ...fixtureJson(`${at}/strategy.json`), long: { enter: { when: "close > smaa(close, 3)" } } });
    const { status, stderr } = canyon("backtest", "--strategy", strategy, "--settings", fixture(`${at}/settings.json`));
    expect(status).toBe(1);
    expect(stderr).toContain("long.enter.when: line 1, column 9: There is no function “smaa”; did you mean “sma”?");
  });

  it("says what is wrong with files that can't be read", () => {
    expect(canyon("backtest", "--strategy", "nowhere.json", "--settings", "t.json").stderr).toContain(
      "nowhere.json: can't be read: there is no such file",
    );
    const half = file("half.json", '{"format": ');
    const { status, stderr } = canyon("backtest", "--strategy", half, "--settings", half);
    expect(status).toBe(1);
    expect(stderr).toContain("is not JSON");
  });

  it("names a time of day that a market's session does not have", () => {
    const at22 = "backtests/22-session-exit-across-summer-time";
    const strategy = { ...fixtureJson(`${at22}/strategy.json`), protect: { exitAt: "03:00" } };
    const { status, stderr } = canyon(
      "backtest",
      "--strategy",
      file("night.json", strategy),
      "--settings",
      fixture(`${at22}/settings.json`),
    );
    expect(status).toBe(1);
    expect(stderr).toMatch(/markets\[0\]\.session: the strategy's exitAt lies outside the session, 09:00 to 17:30/);
  });

  it("refuses a window without bars", () => {
    const settings = { ...fixtureJson(`${at}/settings.json`), from: "2050-01-01" };
    settings.markets[0].bars = fixture("data/ferry-1d.csv");
    const { status, stderr } = canyon("backtest", "--strategy", fixture(`${at}/strategy.json`), "--settings", file("late.json", settings));
    expect(status).toBe(1);
    expect(stderr).toMatch(/from: there are no bars from 2050-01-01/);
  });
});

describe("canyon rule", () => {
  it("writes a value a bar, missing ones empty", () => {
    const { status, stdout } = canyon(
      "rule",
      "--bars",
      fixture("data/ferry-1d.csv"),
      "--timeframe",
      "1d",
      "--rule",
      "sma(close, n)",
      "--params",
      "n=3",
    );
    expect(status).toBe(0);
    const lines = stdout.trim().split("\n");
    expect(lines.slice(0, 3)).toEqual(["time,value", "2014-01-06,", "2014-01-07,"]);
    expect(lines.length).toBe(1201);
    expect(Number(lines[3].split(",")[1])).toBeGreaterThan(100);
  });

  it("refuses wrong formulas, parameters and timeframes", () => {
    const bars = ["rule", "--bars", fixture("data/ferry-1d.csv")];
    expect(canyon(...bars, "--timeframe", "1d", "--rule", "close >").stderr).toContain("--rule: line 1, column 8: ");
    expect(canyon(...bars, "--timeframe", "1x", "--rule", "close").stderr).toContain("--timeframe: “1x” is not a timeframe");
    expect(canyon(...bars, "--timeframe", "1d", "--rule", "close", "--params", "close=1").stderr).toContain("“close” is a built-in series");
    expect(canyon(...bars, "--timeframe", "1d").status).toBe(1);
  });
});

describe("canyon bars", () => {
  it("leaves broken lines out, names them, and succeeds", () => {
    const bars = file(
      "b.csv",
      "Date,Close,Open,High,Low\n2020-01-06,2,1,3,1\n2020-01-07,2,1,x,1\n2020-01-08,2,1,1.5,1\n2020-01-09,3,2,4,2\n",
    );
    const { status, stdout, stderr } = canyon("bars", "--bars", bars, "--timeframe", "1d", "--to", "1w");
    expect(status).toBe(0);
    expect(stdout).toBe("time,open,high,low,close,volume\n2020-01-06,1,4,1,3,0\n");
    expect(stderr.trim().split("\n")).toEqual([
      `${bars}: line 3 left out: high “x” is not a number`,
      `${bars}: line 4 left out: high is below open or close`,
    ]);
  });

  it("refuses files without the columns and empty ones", () => {
    expect(canyon("bars", "--bars", file("c.csv", "time,open\n1,2\n"), "--timeframe", "1d", "--to", "1w").stderr).toContain(
      "line 1: no column “high”, “low”, “close”",
    );
    expect(canyon("bars", "--bars", file("d.csv", ""), "--timeframe", "1d", "--to", "1w").stderr).toContain("the file is empty");
  });
});

describe("canyon metrics", () => {
  it("recomputes what a result holds, and says what it took over", () => {
    const at = "backtests/18-pyramiding-and-reverse";
    const out = join(folder, "p.json");
    canyon("backtest", "--strategy", fixture(`${at}/strategy.json`), "--settings", fixture(`${at}/settings.json`), "--out", out);
    const stored = JSON.parse(readFileSync(out, "utf8"));
    const want = structuredClone(stored.metrics);
    stored.metrics.all.profitFactor = 99;
    stored.metrics.all.maxDrawdown = 0;
    const { status, stdout, stderr } = canyon("metrics", "--result", file("q.json", stored));
    expect(status).toBe(0);
    expect(stderr).toContain("sharpe");
    const got = JSON.parse(stdout);
    for (const part of ["all", "long", "short"])
      for (const [key, value] of Object.entries(want[part])) expectClose(got[part][key], value, 1e-7, `${part} ${key}`);
  });
});

describe("canyon optimize, walk-forward and portfolio", () => {
  const plan = (command: string, at: string, ...more: string[]) => canyon(command, "--plan", fixture(`research/${at}/plan.json`), ...more);
  const known = (at: string) => fixtureJson(`research/${at}/expected.json`);

  it("give the known results, from documents beside the plan or inside it", () => {
    for (const at of ["01-two-averages", "02-several-objectives"]) {
      const { status, stdout, stderr } = plan("optimize", at);
      expect([status, stderr]).toEqual([0, ""]);
      const { best, recommended, plateau } = JSON.parse(stdout) as Record<string, unknown>;
      expect({ best, recommended, plateau }).toEqual({
        best: known(at).best,
        recommended: known(at).recommended,
        plateau: known(at).plateau,
      });
    }
    const walk = JSON.parse(plan("walk-forward", "03-four-windows").stdout) as { nextRefit: string; windows: { values: object }[] };
    expect(walk.nextRefit).toBe(known("03-four-windows").nextRefit);
    expect(walk.windows.map(({ values }) => values)).toEqual(
      known("03-four-windows").windows.map(({ values }: { values: object }) => values),
    );
    expect((JSON.parse(plan("walk-forward", "04-map").stdout) as { recommended: object }).recommended).toEqual(known("04-map").recommended);
    const portfolio = JSON.parse(plan("portfolio", "06-risk-parity-one-market-twice").stdout) as { weights: number[]; trades: object[] };
    portfolio.weights.forEach((x, m) => expectClose(x, known("06-risk-parity-one-market-twice").weights[m], 1e-6, `weight ${m}`));
    expect(portfolio.trades.length).toBe(known("06-risk-parity-one-market-twice").trades.length);
  });

  it("say what is wrong at its place, and write nothing", () => {
    const at = "research/01-two-averages";
    const given = fixtureJson(`${at}/plan.json`) as object;
    const out = join(folder, "never.json");
    const refused = (command: string, change: object) => {
      const path = file("plan.json", {
        ...given,
        strategy: fixture(`${at}/strategy.json`),
        settings: fixture(`${at}/settings.json`),
        ...change,
      });
      const { status, stderr } = canyon(command, "--plan", path, "--out", out);
      expect(status).toBe(1);
      expect(existsSync(out)).toBe(false);
      return stderr.replaceAll(folder, "").trim();
    };
    expect(refused("optimize", { vary: [{ name: "fast", from: 4, to: 14, step: 0 }] })).toMatch(
      /plan\.json: vary\[0\]\.step: the step of fast must be above 0/,
    );
    expect(refused("optimize", { objective: [{ metric: "luck" }] })).toMatch(/objective\[0\]\.metric: metric must be a metric's key/);
    expect(refused("optimize", { method: { kind: "random" } })).toMatch(/method\.trials: “random” needs trials/);
    expect(refused("optimize", { from: "2030-01-01", to: "2031-01-01" })).toMatch(/settings\./);
    expect(refused("optimize", { strategy: "nowhere.json" })).toMatch(/nowhere\.json: can't be read: there is no such file/);
    const walk = { format: "canyon.walk-forward/1", windows: 4, outShare: 25 };
    expect(refused("walk-forward", { ...walk, outShare: 100 })).toMatch(/outShare/);
    expect(refused("walk-forward", { ...walk, windows: 900 })).toMatch(/windows: \d+ dates are too few for 900 windows/);
    expect(refused("walk-forward", { ...walk, windows: [4, 3] })).toMatch(/windows.*rising/);
  });
});

describe("canyon probe and cascade", () => {
  const at = "backtests/12-costs-and-financing";
  const shared = { strategy: fixture(`${at}/strategy.json`), settings: fixture(`${at}/settings.json`) };
  const probe = (probe: string, input: object, more: object = {}) =>
    file("probe.json", { format: "canyon.probe/1", ...shared, probe, input, ...more });

  it("give what the core gives, the same bytes twice", () => {
    const path = probe("shuffledTrades", { runs: 200, criteria: { ruin: 5 } });
    const { status, stdout, stderr } = canyon("probe", "--plan", path);
    expect([status, stderr]).toEqual([0, ""]);
    expect(canyon("probe", "--plan", path).stdout).toBe(stdout);
    const settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
    const kind = PROBES.get("shuffledTrades")!;
    const input = readInput(kind, { runs: 200, criteria: { ruin: 5 } }).value!;
    const { outcome } = runProbe(kind, input, {
      strategy: readStrategy(fixtureJson(`${at}/strategy.json`)).value!,
      settings,
      bars: settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`)),
      others: [],
    });
    expect(JSON.parse(stdout)).toEqual(
      JSON.parse(JSON.stringify({ format: "canyon.probe-result/1", probe: "shuffledTrades", input, ...outcome })),
    );
  });

  it("run on other settings beside the plan, and through a cascade", () => {
    const others = [{ name: "again", settings: fixture(`${at}/settings.json`) }];
    const same = canyon("probe", "--plan", probe("otherSources", { criteria: { sole: 0 } }, { others }));
    expect((JSON.parse(same.stdout) as { verdict: string }).verdict).toBe("passed");
    const cascade = {
      format: "canyon.cascade/1",
      name: "Mine",
      stages: [
        { probe: "outOfSample", input: { split: "50%", criteria: { trades: 100000 } } },
        { probe: "shuffledTrades", input: { criteria: { ruin: 1 } } },
      ],
    };
    const ran = canyon("cascade", "--plan", file("cascade.json", { format: "canyon.cascade-plan/1", ...shared, cascade }));
    expect(ran.stderr).toBe("");
    expect(JSON.parse(ran.stdout)).toMatchObject({
      format: "canyon.cascade-result/1",
      cascade: "Mine",
      through: false,
      stages: [{ probe: "outOfSample", outcome: { verdict: "failed" } }],
    });
  });

  it("say what is wrong at its place, and write nothing", () => {
    const out = join(folder, "no-probe.json");
    const refused = (path: string, command = "probe") => {
      const { status, stdout, stderr } = canyon(command, "--plan", path, "--out", out);
      expect([status, stdout, existsSync(out)]).toEqual([1, "", false]);
      return stderr;
    };
    expect(refused(probe("luck", { criteria: {} }))).toMatch(/probe\.json: probe: there is no probe “luck”/);
    expect(refused(probe("shuffledTrades", { criteria: {} }))).toMatch(/input\.criteria: set at least one criterion/);
    expect(refused(probe("shuffledTrades", { runs: 1, criteria: { ruin: 5 } }))).toMatch(/input\.runs: .*at least 100/);
    expect(refused(probe("outOfSample", { split: "2090-01-01", criteria: { trades: 1 } }))).toMatch(/there are no bars/);
    expect(refused(probe("holdOut", { criteria: { trades: 1 } }))).toMatch(/settings\.markets: no market of these has a seal/);
    expect(refused(probe("shuffledTrades", { criteria: { ruin: 5 } }, { speed: 1 }))).toMatch(/speed: “speed” isn't a key here/);
    expect(
      refused(
        file("cascade.json", {
          format: "canyon.cascade-plan/1",
          ...shared,
          cascade: { format: "canyon.cascade/1", name: "x", stages: [] },
        }),
        "cascade",
      ),
    ).toMatch(/cascade\.stages: /);
  });
});

describe("canyon orders", () => {
  const at = "backtests/01-market-next-open";
  const asked = ["--strategy", fixture(`${at}/strategy.json`), "--settings", fixture(`${at}/settings.json`)];
  type Sheets = {
    format: string;
    sheets: { date: string; orders: object[]; positions: { symbol: string; entered: string; units: number }[]; changes: object }[];
  };

  it("gives what a strategy asks for, as a document and as CSV; its positions are the run's open trades", () => {
    const { status, stdout, stderr } = canyon("orders", ...asked);
    expect([status, stderr]).toEqual([0, ""]);
    const { format, sheets } = JSON.parse(stdout) as Sheets;
    expect(format).toBe("canyon.orders/1");
    const expected = fixtureJson(`${at}/expected.json`) as { trades: { open: boolean; units: number; entryTime: string }[] };
    const open = expected.trades.filter((trade) => trade.open);
    expect(sheets[0].positions.map(({ units, entered }) => [units, entered])).toEqual(
      open.map((trade) => [trade.units, trade.entryTime.slice(0, 10)]),
    );
    const csv = canyon("orders", ...asked, "--csv")
      .stdout.trim()
      .split("\n");
    expect(csv[0]).toBe("for,member,market,session,purpose,side,order,price,units,closes,stop,target,levels,formed,works,rule,values");
    expect(csv.length).toBe(1 + sheets[0].orders.length);
  });

  it("gives what a portfolio asks for, by member", () => {
    const { status, stdout } = canyon("orders", "--plan", fixture("research/05-given-weights/plan.json"));
    expect(status).toBe(0);
    expect((JSON.parse(stdout) as Sheets).sheets[0].date).toMatch(/^\d{4}-/);
  });

  it("says what it needs, and what is wrong", () => {
    const none = canyon("orders");
    expect([none.status, none.stderr]).toEqual([1, "orders needs either --strategy and --settings, or --plan with a portfolio\n"]);
    expect(canyon("orders", "--plan", file("bad.json", { format: "canyon.portfolio/1" })).status).toBe(1);
  });
});

describe("canyon portfolio, weights along the way", () => {
  it("estimates them anew, tells when, and says where a stretch is too short", () => {
    const at = "research/06-risk-parity-one-market-twice";
    const plan = fixtureJson(`${at}/plan.json`) as { settings: string; members: { strategy: string }[]; weights: object };
    const named = (path: string) => (typeof path === "string" ? fixture(`${at}/${path}`) : path);
    const given = (weights: object) =>
      file("along.json", { ...plan, settings: named(plan.settings), members: plan.members.map((one) => ({ ...one, strategy: named(one.strategy) })), weights: { ...plan.weights, ...weights } }); // prettier-ignore
    const { status, stdout } = canyon("portfolio", "--plan", given({ every: 6 }));
    expect(status).toBe(0);
    const result = JSON.parse(stdout) as { weights: number[]; weightsAlong?: { from: string | null; weights: number[] }[] };
    expect(result.weightsAlong![0]).toMatchObject({ from: null, weights: result.weights });
    const { from } = plan.weights as { from: string };
    const short = canyon("portfolio", "--plan", given({ to: from }));
    expect([short.status, short.stderr]).toEqual([1, expect.stringMatching(/weights\.to|members\[0\]/)]);
  });
});
