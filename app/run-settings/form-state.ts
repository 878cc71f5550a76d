import { NO_COSTS, type DocumentProblem } from "#core/documents";
import { readSavedSettings, type SavedSettings } from "#core/settings";
import { COST_KEYS, symbolsOf } from "~/runs/settings-state";

/** Run settings to be saved as a form holds them: texts as typed, and `hand` for what is left as it is at hand. */
export interface SavedState {
  name: string;
  /** symbols with commas; empty: those at hand */
  markets: string;
  dates: "hand" | "all" | "own";
  from: string;
  to: string;
  capital: string;
  leverage: string;
  limit: "hand" | "none" | "own";
  marketLimit: string;
  onLackOfMargin: string;
  haltBelowPercent: string;
  costs: "hand" | "none" | "times" | "market" | "figures";
  times: string;
  figures: Record<(typeof COST_KEYS)[number], string>;
  intrabar: string;
  fineTimeframe: string;
  roundToTick: string;
  closeAtEnd: string;
}

const texts = (costs: Readonly<Record<(typeof COST_KEYS)[number], number>>): SavedState["figures"] =>
  Object.fromEntries(COST_KEYS.map((key) => [key, String(costs[key])])) as SavedState["figures"];

/** The form of saved run settings. */
export function stateOfSaved(name: string, saved: SavedSettings): SavedState {
  const { costs, dates, marketLimit } = saved;
  const flag = (value: boolean | undefined) => (value === undefined ? "hand" : value ? "yes" : "no");
  return {
    name,
    markets: saved.markets?.join(",") ?? "",
    dates: dates === undefined ? "hand" : dates.from === undefined && dates.to === undefined ? "all" : "own",
    from: dates?.from ?? "",
    to: dates?.to ?? "",
    capital: saved.capital === undefined ? "" : String(saved.capital),
    leverage: saved.leverage === undefined ? "" : String(saved.leverage),
    limit: marketLimit === undefined ? "hand" : marketLimit === "none" ? "none" : "own",
    marketLimit: typeof marketLimit === "number" ? String(marketLimit) : "",
    onLackOfMargin: saved.onLackOfMargin ?? "hand",
    haltBelowPercent: saved.haltBelowPercent === undefined ? "" : String(saved.haltBelowPercent),
    costs:
      costs === undefined
        ? "hand"
        : costs.of === "figures"
          ? "figures"
          : costs.of === "market"
            ? "market"
            : costs.times === 0
              ? "none"
              : "times",
    times: costs === undefined || costs.of === "figures" ? "1" : String(costs.times),
    figures: texts(costs?.of === "figures" ? costs.figures : NO_COSTS),
    intrabar: saved.intrabar ?? "hand",
    fineTimeframe: saved.fineTimeframe ?? "hand",
    roundToTick: flag(saved.roundToTick),
    closeAtEnd: flag(saved.closeAtEnd),
  };
}

/** What a form says, or what is wrong with it, each problem under the name of its field. */
export function savedOfState(state: SavedState): { saved: SavedSettings; problems: [] } | { saved: null; problems: DocumentProblem[] } {
  const problems: DocumentProblem[] = [];
  const number = (path: string, text: string): number | undefined => {
    const value = Number(text.trim().replace(/[\s,]/g, ""));
    if (text.trim() === "" || !Number.isFinite(value))
      problems.push({ path, message: text.trim() === "" ? "a number is missing" : `“${text}” is not a number` });
    return value;
  };
  const optional = (path: keyof SavedState & string, text: string) => (text.trim() === "" ? undefined : number(path, text));
  const chosen = (text: string) => (text === "hand" ? undefined : text);
  const flag = (text: string) => (text === "hand" ? undefined : text === "yes");
  const markets = symbolsOf(state.markets);
  const given = {
    markets: markets.length === 0 ? undefined : markets,
    dates: state.dates === "hand" ? undefined : state.dates === "all" ? {} : { from: state.from || undefined, to: state.to || undefined },
    capital: optional("capital", state.capital),
    leverage: optional("leverage", state.leverage),
    marketLimit: state.limit === "own" ? number("marketLimit", state.marketLimit) : chosen(state.limit),
    onLackOfMargin: chosen(state.onLackOfMargin),
    haltBelowPercent: optional("haltBelowPercent", state.haltBelowPercent),
    costs:
      state.costs === "hand"
        ? undefined
        : state.costs === "none"
          ? { of: "hand", times: 0 }
          : state.costs === "figures"
            ? { of: "figures", figures: Object.fromEntries(COST_KEYS.map((key) => [key, number(key, state.figures[key])])) }
            : { of: state.costs === "market" ? "market" : "hand", times: number("times", state.times) },
    intrabar: chosen(state.intrabar),
    fineTimeframe: chosen(state.fineTimeframe),
    roundToTick: flag(state.roundToTick),
    closeAtEnd: flag(state.closeAtEnd),
  };
  if (state.name.trim() === "") problems.push({ path: "name", message: "run settings need a name" });
  if (problems.length > 0) return { saved: null, problems };
  const read = readSavedSettings(given);
  if (read.value === null)
    return { saved: null, problems: read.problems.map(({ path, message }) => ({ path: path.split(".").at(-1)!, message })) };
  return { saved: read.value, problems: [] };
}
