import type { Strategy } from "#core/documents";
import { distanceInWords, orderInWords, sizingInWords } from "./statement";
import { WEEKDAYS } from "./phrases";

/** One difference between two strategies. `before` or `now` is null where a thing was added or taken out. */
export interface Difference {
  what: string;
  before: string | null;
  now: string | null;
}

/** What a strategy says, by readable names, in the order of its document. */
function facts(strategy: Strategy): Map<string, string> {
  const out = new Map<string, string>();
  const put = (what: string, value: unknown) => {
    if (value !== undefined && value !== null && value !== "") out.set(what, String(value));
  };
  const plain = (rule: string) => rule;
  put("name", strategy.name);
  put("notes", strategy.notes);
  put("timeframe", strategy.timeframe);
  for (const { name, value, min, max, step, about } of strategy.parameters ?? []) {
    put(name, value === true ? "yes" : value === false ? "no" : value);
    put(`range of ${name}`, min === undefined && max === undefined ? undefined : `${min ?? "…"} to ${max ?? "…"}`);
    put(`step of ${name}`, step);
    put(`about ${name}`, about);
  }
  for (const { name, rule, variants, chosen } of strategy.definitions ?? []) {
    put(name, rule);
    put(`variant of ${name}`, variants && (chosen ?? 1));
    variants?.forEach((variant, i) => put(`${name}, ${variant.label ?? `variant ${i + 1}`}`, variant.rule));
  }
  for (const side of ["long", "short"] as const) {
    const own = strategy[side];
    put(`enter ${side}`, own?.enter?.when);
    put(`order ${side}`, own?.enter && orderInWords(own.enter.order, side, plain));
    put(`exit ${side}`, own?.exit?.when);
    put(`exit ${side} at`, own?.exit && (own.exit.at === "sameClose" ? "the same close" : "the following open"));
  }
  const { stop, target, trail, breakeven, maxBarsHeld, exitAt, exitWeekday } = strategy.protect ?? {};
  put("stop loss", stop && distanceInWords(stop.unit, stop.value, stop.period) + (stop.follow ? ", followed" : ""));
  put("target", target && distanceInWords(target.unit, target.value, target.period));
  put(
    "trailing stop",
    trail &&
      distanceInWords(trail.unit, trail.value, trail.period) +
        (trail.activateAfter ? `, once ${distanceInWords(trail.unit, trail.activateAfter, trail.period)} ahead` : ""),
  );
  put(
    "stop to break-even",
    breakeven &&
      `once ${distanceInWords(breakeven.unit, breakeven.trigger, breakeven.period)} ahead` +
        (breakeven.offset ? `, plus ${distanceInWords(breakeven.unit, breakeven.offset, breakeven.period)}` : ""),
  );
  put("exit after bars", maxBarsHeld);
  put("exit at", exitAt);
  put("exit on", exitWeekday && `${WEEKDAYS[exitWeekday.weekday - 1]} ${exitWeekday.time}`);
  put("size", sizingInWords(strategy.sizing).replace(/\.$/, ""));
  put("on the opposite signal", strategy.onOpposite ?? "reverse");
  put("entries at once", strategy.entriesAtOnce ?? 1);
  put("priority", strategy.priority);
  return out;
}

/** What changed from one strategy to another: what both have first, in the order of the later one, then what was taken out. */
export function differences(before: Strategy, now: Strategy): Difference[] {
  const [old, next] = [facts(before), facts(now)];
  return [...new Set([...next.keys(), ...old.keys()])]
    .filter((what) => old.get(what) !== next.get(what))
    .map((what) => ({ what, before: old.get(what) ?? null, now: next.get(what) ?? null }));
}

/** Differences in one line: “fast 20 → 12; exit after bars 5 added”. */
export const differencesInWords = (list: readonly Difference[]): string =>
  list
    .map(({ what, before, now }) =>
      before === null ? `${what} ${now} added` : now === null ? `${what} taken out` : `${what} ${before} → ${now}`,
    )
    .join("; ");
