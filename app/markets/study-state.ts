import type { Colours } from "~/charts/colours";

/** A formula drawn with the prices. */
export interface StudyFormula {
  rule: string;
  label: string;
  colour: keyof Colours;
  /** over the prices, or in a pane of its own below */
  place: "over" | "below";
}

export const FORMULA_COLOURS = ["plum", "ochre", "moss", "slate"] as const;
export const MOST_FORMULAS = 4;

/** What a price page shows; all of it stands in the address. */
export interface StudyState {
  source: number | null;
  timeframe: string | null;
  formulas: StudyFormula[];
  /** other markets, rebased to 100 with this one */
  compare: string[];
  /** date in the middle of the view */
  at: string | null;
}

/** Reads the state out of the address; what makes no sense there is left out. */
export function readStudy(query: URLSearchParams): StudyState {
  const source = Number(query.get("source"));
  return {
    source: Number.isInteger(source) && source > 0 ? source : null,
    timeframe: query.get("timeframe"),
    formulas: query
      .getAll("formula")
      .slice(0, MOST_FORMULAS)
      .flatMap((text, i) => {
        const [place, colour, label, ...rest] = text.split("|");
        const rule = rest.join("|");
        if (rule.trim() === "") return [];
        return {
          rule,
          label: label || rule,
          colour: (FORMULA_COLOURS as readonly string[]).includes(colour) ? (colour as StudyFormula["colour"]) : FORMULA_COLOURS[i],
          place: place === "below" ? "below" : "over",
        };
      }),
    compare: (query.get("compare") ?? "").split(",").filter(Boolean),
    at: /^\d{4}-\d{2}-\d{2}$/.test(query.get("at") ?? "") ? query.get("at") : null,
  };
}

/** The address of a state; what is as it would be anyway is left out. */
export function writeStudy(state: StudyState): URLSearchParams {
  const query = new URLSearchParams();
  if (state.source !== null) query.set("source", String(state.source));
  if (state.timeframe !== null) query.set("timeframe", state.timeframe);
  for (const { place, colour, label, rule } of state.formulas)
    query.append("formula", [place, colour, label === rule ? "" : label, rule].join("|"));
  if (state.compare.length > 0) query.set("compare", state.compare.join(","));
  if (state.at !== null) query.set("at", state.at);
  return query;
}
