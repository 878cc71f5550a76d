import { parseDate, parseTimeframe } from "#core/bars";
import {
  checkShape,
  exact,
  list,
  number,
  oneOf,
  text,
  truth,
  whole,
  withoutNulls,
  type Costs,
  type DocumentProblem,
  type Read,
  type Settings,
} from "#core/documents";

/** Costs of saved run settings: a multiple of those at hand or of the first market's own, or figures. */
export type SavedCosts = { of: "hand" | "market"; times: number } | { of: "figures"; figures: Costs };

/**
 * Run settings under a name. They say only what they fix; the rest is as at hand, where they are used. `markets`: symbols.
 * `dates`: a bound that is left out is the data's. `finest`: the finest bars that the market has.
 */
export interface SavedSettings {
  markets?: string[];
  dates?: { from?: string; to?: string };
  capital?: number;
  leverage?: number;
  marketLimit?: number | "none";
  onLackOfMargin?: Settings["onLackOfMargin"];
  haltBelowPercent?: number;
  costs?: SavedCosts;
  intrabar?: Settings["intrabar"];
  fineTimeframe?: string;
  roundToTick?: boolean;
  closeAtEnd?: boolean;
}

const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || parseDate(x) !== null);
const cost = () => number().min(0, "must not be negative");

const savedSchema = exact(
  {
    markets: list(text().required()).min(1, "must name at least one market"),
    dates: exact({ from: date(), to: date() }, "dates").default(undefined),
    capital: number().moreThan(0, "must be above 0"),
    leverage: number().moreThan(0, "must be above 0"),
    marketLimit: text()
      .transform((x: unknown) => x)
      .test("limit", "must be a whole number from 1 on, or none", (x) => x === undefined || x === "none"),
    onLackOfMargin: oneOf(["reduce", "skip"] as const),
    haltBelowPercent: number().min(0, "must not be negative"),
    costs: exact(
      {
        of: oneOf(["hand", "market", "figures"] as const).required(),
        times: number().min(0, "must not be negative"),
        figures: exact(
          {
            perUnit: cost().required(),
            perOrder: cost().required(),
            percent: cost().required(),
            minimum: cost().required(),
            spreadTicks: cost().required(),
            slippageTicks: cost().required(),
            financingLongPercent: number().required(),
            financingShortPercent: number().required(),
          },
          "figures of costs",
        ).default(undefined),
      },
      "costs",
    ).default(undefined),
    intrabar: oneOf(["pessimistic", "optimistic", "path"] as const),
    fineTimeframe: text().test(
      "fine",
      "must be none, finest, or a timeframe such as 1m",
      (x) => x === undefined || x === "none" || x === "finest" || parseTimeframe(x) !== null,
    ),
    roundToTick: truth(),
    closeAtEnd: truth(),
  },
  "saved run settings",
);

const limitSchema = exact({ marketLimit: whole().min(1, "must be at least 1") }, "saved run settings");

/** Reads saved run settings; what is left out is as at hand. */
export function readSavedSettings(given: unknown): Read<SavedSettings> {
  const { marketLimit, ...rest } = (given ?? {}) as { marketLimit?: unknown };
  const problems: DocumentProblem[] = [
    ...checkShape(savedSchema, typeof marketLimit === "number" ? rest : given),
    ...(typeof marketLimit === "number" ? checkShape(limitSchema, { marketLimit }) : []),
  ];
  if (problems.length > 0) return { value: null, problems };
  const value = withoutNulls(given) as SavedSettings;
  const { costs, dates, markets } = value;
  if (costs !== undefined && (costs.of === "figures") !== "figures" in costs)
    problems.push({ path: "costs.figures", message: "figures go with costs of figures, and only with them" });
  if (costs !== undefined && (costs.of === "figures") === "times" in costs)
    problems.push({ path: "costs.times", message: "a multiple goes with costs at hand or of the market, and only with them" });
  if (dates?.from !== undefined && dates.to !== undefined && dates.from > dates.to)
    problems.push({ path: "dates.to", message: `the last date, ${dates.to}, lies before the first, ${dates.from}` });
  markets?.forEach((symbol, i) => {
    if (markets.indexOf(symbol) < i) problems.push({ path: `markets[${i}]`, message: `${symbol} stands twice among the markets` });
  });
  if (Object.keys(value).length === 0)
    problems.push({ path: "", message: "these run settings fix nothing yet; choose at least one thing that they say" });
  return problems.length > 0 ? { value: null, problems } : { value, problems: [] };
}
