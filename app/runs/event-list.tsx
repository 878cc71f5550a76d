import { Download } from "lucide-react";
import type { EventKind, RunEvent } from "#core/documents";
import { decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import { saveCsv } from "~/design/save";

/** What can happen to a signal or an order beside a fill, as the trader reads it. */
export const EVENTS: Readonly<Record<EventKind, { name: string; meaning: string }>> = {
  marketLimit: { name: "No room", meaning: "as many markets as allowed were held already" },
  noMargin: { name: "No margin", meaning: "the account's margin was used up" },
  reduced: { name: "Cut to the margin", meaning: "the order was made smaller to fit the account's margin" },
  overMargin: { name: "Over the margin", meaning: "a fill at a worse price took the account above its margin" },
  tooSmall: { name: "Too small", meaning: "the size came to less than the smallest unit" },
  noPrice: { name: "No price", meaning: "the order's price formula had no value" },
  badPrice: { name: "Price at or below 0", meaning: "this way of sizing needs a price above 0" },
  noDistance: { name: "No distance", meaning: "a stop, target or range had no value at the signal" },
  bothSides: { name: "Both sides at once", meaning: "long and short asked to enter at one close, so neither did" },
  expired: { name: "Expired", meaning: "an order worked for all its bars without a fill" },
  replaced: { name: "Replaced", meaning: "a newer signal's order took the place of one that still worked" },
  dropped: {
    name: "Dropped",
    meaning: "an order was taken back: the other side filled, the position left, the time came or the account was halted",
  },
  halt: { name: "Account halted", meaning: "the equity fell to the halt level and everything was closed" },
  noFineBars: { name: "No fine bars", meaning: "there were no finer bars to decide inside this bar" },
};

const SHOWN = 300;

interface Props {
  events: readonly RunEvent[];
  kind: string | null;
  onKind: (kind: string | null) => void;
  selected: number | null;
  onSelect: (index: number) => void;
}

/** The run's events by kind; each leads to its bar on the prices. */
export function EventList({ events, kind, onKind, selected, onSelect }: Props) {
  const counts = new Map<EventKind, number>();
  for (const event of events) counts.set(event.kind, (counts.get(event.kind) ?? 0) + 1);
  const rows = events.map((event, index) => ({ event, index })).filter(({ event }) => kind === null || event.kind === kind);
  const pill = (key: string | null, name: string, count: number, title?: string) => (
    <button
      key={name}
      type="button"
      aria-pressed={kind === key}
      title={title}
      onClick={() => onKind(key)}
      className={`rounded-[4px] border px-2 py-0.5 text-sm ${kind === key ? "border-ink bg-shade" : "border-edge hover:border-ink-faint"}`}
    >
      {name} <span className="figure-text">{decimal(count, 0)}</span>
    </button>
  );
  return (
    <Panel
      flush
      title="Events"
      note={
        events.length === 0
          ? "none: every signal became an order, every order filled"
          : "what kept signals and orders from filling; a click leads to the bar"
      }
      aside={
        events.length > 0 && (
          <button
            type="button"
            aria-label="Save the events as CSV"
            onClick={() =>
              saveCsv(
                "events",
                ["time", "symbol", "kind", "detail"],
                rows.map(({ event }) => [event.time, event.symbol, event.kind, event.detail]),
              )
            }
          >
            <Download size={14} aria-hidden />
          </button>
        )
      }
    >
      {events.length > 0 && (
        <>
          <div className="flex flex-wrap gap-1.5 px-3.5 pt-1 pb-2">
            {pill(null, "All", events.length)}
            {[...counts].map(([key, count]) => pill(key, EVENTS[key].name, count, EVENTS[key].meaning))}
          </div>
          <ul className="max-h-56 overflow-auto border-t border-edge" aria-label="Events" tabIndex={0}>
            {rows.slice(0, SHOWN).map(({ event, index }) => (
              <li key={index}>
                <button
                  type="button"
                  onClick={() => onSelect(index)}
                  className={`grid w-full grid-cols-[130px_80px_150px_1fr] gap-2 px-3.5 py-0.5 text-left text-sm hover:bg-shade ${index === selected ? "bg-shade font-semibold" : ""}`}
                >
                  <span className="figure-text">{event.time.slice(0, 16).replace("T00:00", "").replace("T", " ")}</span>
                  <span className="figure-text">{event.symbol}</span>
                  <span>{EVENTS[event.kind].name}</span>
                  <span className="truncate text-ink-soft">{event.detail}</span>
                </button>
              </li>
            ))}
          </ul>
          {rows.length > SHOWN && (
            <p className="px-3.5 py-1 text-sm text-ink-soft">
              the first {SHOWN} of {decimal(rows.length, 0)}; the file has all
            </p>
          )}
        </>
      )}
    </Panel>
  );
}
