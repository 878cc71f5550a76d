import { describe, expect, it } from "vitest";
import { parseTimeframe, compareTimeframes, resampleFault, type Bars } from "#core/bars";
import { NO_COSTS, readSettings, readStrategy } from "#core/documents";
import { auditLookAhead, backtest } from "#core/runs";
import { strategyStatement } from "#core/wording";
import { saltmarchDates, saltmarchSession } from "./calendar";
import { boardMoves, DEMO_MARKETS, demoSources } from "./markets";
import { READY_MADE_STRATEGIES } from "#core/library";
import { backlogOf, DEMO_SHARES, shareBars } from "./shares";

const dates = saltmarchDates();
const moves = boardMoves();
const sources = new Map<string, { timeframe: string; bars: Bars }[]>();

/** The finest bars that serve a timeframe, as a page would choose them. */
function barsFor(symbol: string, timeframe: string): { timeframe: string; bars: Bars } {
  const share = DEMO_SHARES.findIndex((one) => one.symbol === symbol);
  if (share >= 0) return { timeframe: "1d", bars: shareBars(share, dates, moves) };
  if (!sources.has(symbol))
    sources.set(
      symbol,
      [...demoSources(DEMO_MARKETS.find((market) => market.spec.symbol === symbol)!)].filter(({ source }) => source === "Lighthouse"),
    );
  const wanted = parseTimeframe(timeframe)!;
  const usable = sources.get(symbol)!.filter((one) => resampleFault(parseTimeframe(one.timeframe)!, wanted) === null);
  return usable.sort((a, b) => compareTimeframes(parseTimeframe(b.timeframe)!, parseTimeframe(a.timeframe)!))[0];
}

const marketsOf = ({ market, others = [], every }: (typeof READY_MADE_STRATEGIES)[number]): string[] =>
  every === undefined ? [market, ...others] : DEMO_SHARES.map((share) => share.symbol);

function settingsFor(one: (typeof READY_MADE_STRATEGIES)[number], asked = marketsOf(one)) {
  const { strategy, every } = one;
  const held = asked.map((symbol) => barsFor(symbol, strategy.timeframe));
  const settings = readSettings({
    format: "canyon.settings/1",
    markets: asked.map((symbol, i) => {
      const share = DEMO_SHARES.findIndex((one) => one.symbol === symbol);
      const spec = DEMO_MARKETS.find((one) => one.spec.symbol === symbol)?.spec ?? {
        symbol,
        tick: 0.01,
        pointValue: 1,
        session: saltmarchSession(),
      };
      const backlog = share < 0 ? null : backlogOf(share, dates);
      return {
        ...spec,
        bars: symbol,
        timeframe: held[i].timeframe,
        ...(backlog === null ? {} : { series: { backlog: { time: [...backlog.time], value: [...backlog.value] } } }),
      };
    }),
    capital: 1_000_000,
    marketLimit: every?.marketLimit ?? null,
    costs: { ...NO_COSTS, spreadTicks: 1 },
  });
  expect(settings.problems).toEqual([]);
  return { settings: settings.value!, bars: held.map((one) => one.bars) };
}

describe("ready-made strategies", () => {
  it("are at least fifteen, each with a reason and a name of its own", () => {
    expect(READY_MADE_STRATEGIES.length).toBeGreaterThanOrEqual(15);
    expect(new Set(READY_MADE_STRATEGIES.map(({ strategy }) => strategy.name)).size).toBe(READY_MADE_STRATEGIES.length);
    for (const { strategy } of READY_MADE_STRATEGIES) expect(strategy.notes!.length).toBeGreaterThan(100);
  });

  it("use everything that the format knows", () => {
    const all = JSON.stringify(READY_MADE_STRATEGIES);
    const wanted = [
      ...["stop", "limit", "market"].map((type) => `"type":"${type}"`),
      ...["points", "ticks", "percent", "atr", "r", "price"].map((unit) => `"unit":"${unit}"`),
      ...["units", "cash", "equityPercent", "riskPercent", "atrPercent", "equalShare"].map((mode) => `"mode":"${mode}"`),
      ...["trail", "breakeven", "maxBarsHeld", "exitAt", "exitWeekday", "priority", "entriesAtOnce", "variants", "follow", "base"].map(
        (key) => `"${key}":`,
      ),
      ...["reverse", "close", "ignore"].map((way) => `"onOpposite":"${way}"`),
      '"at":"sameClose"',
    ];
    for (const text of wanted) expect(all, text).toContain(text);
  });

  it.each(READY_MADE_STRATEGIES.map((one) => [one.strategy.name!, one] as const))(
    "%s runs, trades, does not look ahead, and can be told",
    (_name, one) => {
      expect(readStrategy(one.strategy).problems).toEqual([]);
      const { settings, bars } = settingsFor(one);
      const { result, problems } = backtest(one.strategy, settings, bars);
      expect(problems).toEqual([]);
      expect(result!.metrics.all.trades).toBeGreaterThan(10);
      expect(result!.halted).toBe(false);
      const few = one.every ? settingsFor(one, marketsOf(one).slice(0, 4)) : { settings, bars };
      const { audit } = auditLookAhead(one.strategy, few.settings, few.bars, 4);
      expect(audit).toMatchObject({ cuts: 4, difference: null });
      const told = strategyStatement(one.strategy).flatMap(({ lines }) => lines);
      expect(told.join(" ")).not.toMatch(/undefined|\{|null|NaN/);
    },
    60_000,
  );
});
