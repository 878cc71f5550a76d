import { marketSpec, parseDate, parseTimeframe, type DatedSeries, type MarginRule, type MarketSpec, type Session } from "#core/bars";
import * as yup from "yup";
import {
  checkShape,
  exact,
  formatKey,
  list,
  number,
  oneOf,
  text,
  truth,
  whole,
  withoutNulls,
  type DocumentProblem,
  type Read,
} from "./shape";
import { marketKeys } from "./market";

/** A market of run settings: its specification, and where its bars are. */
export interface SettingsMarket extends MarketSpec {
  /** a path in files; the hash of the bars' columns inside Canyon */
  bars: string;
  timeframe: string;
  /** extra series that rules may name: a path in files, the values themselves inside Canyon */
  series?: Record<string, string | DatedSeries>;
}

export interface Costs {
  perUnit: number;
  perOrder: number;
  percent: number;
  minimum: number;
  spreadTicks: number;
  slippageTicks: number;
  financingLongPercent: number;
  financingShortPercent: number;
}

/** `canyon.settings/1` with every default filled in. `from` and `to` are session dates, both inclusive. */
export interface Settings {
  format: "canyon.settings/1";
  markets: SettingsMarket[];
  from: string | null;
  to: string | null;
  capital: number;
  currency: string | null;
  leverage: number;
  marketLimit: number | null;
  onLackOfMargin: "reduce" | "skip";
  costs: Costs;
  intrabar: "pessimistic" | "optimistic" | "path";
  fineTimeframe: string | null;
  haltBelowPercent: number;
  closeAtEnd: boolean;
  roundToTick: boolean;
  benchmark: string | null;
}

export const NO_COSTS: Costs = {
  perUnit: 0,
  perOrder: 0,
  percent: 0,
  minimum: 0,
  spreadTicks: 0,
  slippageTicks: 0,
  financingLongPercent: 0,
  financingShortPercent: 0,
};

const timeframe = () =>
  text().test(
    "timeframe",
    "must be a timeframe, such as 5m, 1h, 1d, 1w or 1M",
    (x) => x === undefined || x === null || parseTimeframe(x) !== null,
  );
const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || x === null || parseDate(x) !== null);
/** Extra series by name: a file's path, or the values themselves. */
const seriesShape = () =>
  yup
    .mixed<Record<string, string | DatedSeries>>()
    .test(
      "series",
      "must give a file, or times and values of one length, for each name",
      (given) => given === undefined || isSeries(given),
    );

function isSeries(given: unknown): boolean {
  if (typeof given !== "object" || given === null || Array.isArray(given)) return false;
  return Object.entries(given).every(([name, one]) => {
    if (!/^[A-Za-z][A-Za-z0-9_]*$/.test(name)) return false;
    if (typeof one === "string") return one !== "";
    const { time, value } = (one ?? {}) as Partial<DatedSeries>;
    return (
      Array.isArray(time) &&
      Array.isArray(value) &&
      time.length === value.length &&
      time.every((t, i) => Number.isFinite(t) && (i === 0 || t > time[i - 1])) &&
      value.every(Number.isFinite)
    );
  });
}

const cost = () => number().min(0, "must not be negative");

export const settingsSchema = exact(
  {
    format: formatKey("canyon.settings/1"),
    markets: list(exact({ ...marketKeys(), bars: text().required(), timeframe: timeframe().required(), series: seriesShape() }, "a market"))
      .required()
      .min(1, "must name at least one market"),
    from: date(),
    to: date(),
    capital: number().required().moreThan(0, "must be above 0"),
    currency: text(),
    leverage: number().moreThan(0, "must be above 0"),
    marketLimit: whole().min(1, "must be at least 1"),
    onLackOfMargin: oneOf(["reduce", "skip"] as const),
    costs: exact(
      {
        perUnit: cost(),
        perOrder: cost(),
        percent: cost(),
        minimum: cost(),
        spreadTicks: cost(),
        slippageTicks: cost(),
        financingLongPercent: number(),
        financingShortPercent: number(),
      },
      "costs",
    ).default(undefined),
    intrabar: oneOf(["pessimistic", "optimistic", "path"] as const),
    fineTimeframe: timeframe(),
    haltBelowPercent: number().min(0, "must not be negative"),
    closeAtEnd: truth(),
    roundToTick: truth(),
    benchmark: text(),
  },
  "run settings",
);

/** Reads run settings and fills in what was left out. */
export function readSettings(given: unknown): Read<Settings> {
  const problems = checkShape(settingsSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as Partial<Omit<Settings, "markets" | "costs">> & {
    markets: {
      symbol: string;
      bars: string;
      timeframe: string;
      margin?: MarginRule;
      session?: Session;
      series?: SettingsMarket["series"];
    }[];
    costs?: Partial<Costs>;
    capital: number;
  };
  const value: Settings = {
    format: "canyon.settings/1",
    markets: raw.markets.map((market) => ({
      ...marketSpec(market),
      bars: market.bars,
      timeframe: market.timeframe,
      ...(market.series === undefined ? {} : { series: market.series }),
    })),
    from: raw.from ?? null,
    to: raw.to ?? null,
    capital: raw.capital,
    currency: raw.currency ?? null,
    leverage: raw.leverage ?? 1,
    marketLimit: raw.marketLimit ?? null,
    onLackOfMargin: raw.onLackOfMargin ?? "reduce",
    costs: { ...NO_COSTS, ...raw.costs },
    intrabar: raw.intrabar ?? "pessimistic",
    fineTimeframe: raw.fineTimeframe ?? null,
    haltBelowPercent: raw.haltBelowPercent ?? 0,
    closeAtEnd: raw.closeAtEnd ?? false,
    roundToTick: raw.roundToTick ?? false,
    benchmark: raw.benchmark ?? null,
  };
  const wrong = meaning(value);
  return wrong.length > 0 ? { value: null, problems: wrong } : { value, problems: [] };
}

function meaning(settings: Settings): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const symbols = settings.markets.map((market) => market.symbol);
  symbols.forEach((symbol, i) => {
    if (symbols.indexOf(symbol) < i) problems.push({ path: `markets[${i}].symbol`, message: `${symbol} stands twice among the markets` });
  });
  if (settings.from !== null && settings.to !== null && settings.from > settings.to)
    problems.push({ path: "to", message: `the last date, ${settings.to}, lies before the first, ${settings.from}` });
  if (settings.benchmark !== null && !symbols.includes(settings.benchmark))
    problems.push({ path: "benchmark", message: `${settings.benchmark} isn't one of the markets: ${symbols.join(", ")}` });
  return problems;
}
