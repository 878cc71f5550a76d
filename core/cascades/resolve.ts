import { formatDate, parseDate, type Bars } from "#core/bars";
import type { Settings, Strategy } from "#core/documents";
import { ownSearch, PROBES } from "#core/probes";
import { shareOf, type Stage } from "./document";

/** First and last day (since 1970) of run settings' window over their bars. */
export function windowOf(settings: Pick<Settings, "from" | "to">, spans: readonly { first: number; last: number }[]): [number, number] {
  const from = settings.from === null ? Math.min(...spans.map((span) => span.first)) : parseDate(settings.from)!;
  const to = settings.to === null ? Math.max(...spans.map((span) => span.last)) : parseDate(settings.to)!;
  return [from, to];
}

/** First and last day of bars, in UTC. */
export const spanOfBars = ({ time }: Pick<Bars, "time">): { first: number; last: number } => ({
  first: Math.floor(time[0] / 86_400_000),
  last: Math.floor(time[time.length - 1] / 86_400_000),
});

/** A stage's input for one version: shares of its window as dates, and what is searched: `search`, or its own ranges. */
export function stageInput(
  { probe, input }: Stage,
  strategy: Strategy,
  [from, to]: readonly [number, number],
  search: unknown = null,
): Record<string, unknown> {
  const out: Record<string, unknown> = { ...input };
  for (const field of PROBES.get(probe)!.fields) {
    const share = shareOf(input[field.key]);
    if (field.kind === "date" && share !== null) out[field.key] = formatDate(Math.round(from + share * (to - from)));
    if (field.kind === "search" && (input[field.key] === undefined || input[field.key] === null))
      out[field.key] = search ?? ownSearch(strategy) ?? undefined;
  }
  return out;
}
