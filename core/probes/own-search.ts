import type { Strategy } from "#core/documents";
import type { Search } from "#core/optimize";

/** At most so many combinations make a search of the parameters' own ranges; a probe repeats it many times. */
const MOST = 500;

/** A search over the ranges that a strategy's parameters have, coarsened until its combinations are few enough; null without any. */
export function ownSearch(strategy: Strategy): Search | null {
  const vary = (strategy.parameters ?? []).flatMap(({ name, kind, min, max, step }) =>
    kind === "yesNo" || min === undefined || max === undefined || max <= min
      ? []
      : [{ name, from: min, to: max, step: step ?? (kind === "whole" ? 1 : (max - min) / 10) }],
  );
  if (vary.length === 0) return null;
  const values = ({ from, to, step }: (typeof vary)[number]) => Math.floor((to - from) / step + 1e-9) + 1;
  while (vary.reduce((all, one) => all * values(one), 1) > MOST) vary.reduce((a, b) => (values(b) > values(a) ? b : a)).step *= 2;
  return { vary, method: { kind: "grid" }, objective: [{ metric: "profitToDrawdown", want: "more", weight: 1 }], limits: [] };
}
