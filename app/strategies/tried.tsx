import type { Metrics, Strategy } from "#core/documents";
import type { TrialLedger } from "#server/strategies";
import { decimal, signed } from "~/design/format";
import { Panel } from "~/design/panel";
import { Tip } from "~/design/tip";
import type { Try } from "./use-tries";

const MEANING =
  "Every look at a result is a trial: the best of many trials looks better than it is, by luck alone. Canyon counts each distinct strategy and run settings once, and what optimizations and probes spend.";

/** How many trials were spent on the line, and what that means. */
export function TrialsSpent({ ledger }: { ledger: TrialLedger | null }) {
  if (ledger === null) return null;
  const parts = [
    [ledger.tries, "tried by hand"],
    [ledger.runs, "runs"],
    [ledger.optimizations, "by optimizations"],
    [ledger.probes, "by probes"],
  ] as const;
  return (
    <Tip
      text={`${MEANING} Here: ${
        parts
          .filter(([count]) => count > 0)
          .map(([count, what]) => `${decimal(count, 0)} ${what}`)
          .join(", ") || "none yet"
      }.`}
    >
      <span tabIndex={0} data-trials={ledger.total}>
        {decimal(ledger.total, 0)} {ledger.total === 1 ? "trial" : "trials"} on this line
      </span>
    </Tip>
  );
}

interface TriedProps {
  tries: readonly Try[];
  current: string | null;
  ledger: TrialLedger | null;
  /** what each is set against: the saved version's figures, or those of the first try */
  base: Metrics | null;
  onTake: (strategy: Strategy, what: string) => void;
}

/** What was tried in this window, each against where it started; a click takes it up again. */
export function Tried({ tries, current, ledger, base, onTake }: TriedProps) {
  if (tries.length < 2) return null;
  const from = base?.profitToDrawdown ?? tries[0].view.metrics.all.profitToDrawdown;
  const changes = tries.map((one) => {
    const now = one.view.metrics.all.profitToDrawdown;
    return now === null || now === undefined || from === null || from === undefined ? null : now - from;
  });
  const largest = Math.max(0.01, ...changes.map((x) => Math.abs(x ?? 0)));
  return (
    <Panel className="mt-3" title="What you have tried" note="profit ÷ drawdown, against the start" aside={<TrialsSpent ledger={ledger} />}>
      <ol className="flex gap-0 overflow-x-auto pb-1" aria-label="Tries, the newest last" tabIndex={0}>
        {tries.map((one, i) => {
          const change = changes[i];
          return (
            <li key={one.key} className="w-36 shrink-0 border-l border-edge px-2 first:border-l-0">
              <button
                type="button"
                onClick={() => onTake(one.strategy, one.what)}
                className={`block w-full text-left hover:bg-shade ${one.key === current ? "border-l-4 border-ochre pl-1.5 font-semibold" : ""}`}
                title={`take up again: ${one.what}`}
              >
                <span className="line-clamp-2 h-9 text-sm leading-tight">{one.what}</span>
                <span className="mt-1 flex items-center gap-2">
                  <span aria-hidden className="relative block h-2.5 flex-1">
                    <span className="absolute inset-y-0 left-1/2 w-px bg-ink-faint" />
                    {change !== null && (
                      <span
                        className={`absolute inset-y-0 ${change >= 0 ? "left-1/2 bg-river" : "right-1/2 hatch-clay"}`}
                        style={{ width: `${(Math.abs(change) / largest) * 50}%` }}
                      />
                    )}
                  </span>
                  <span className="figure-text text-sm">{change === null ? "–" : signed(change, 2)}</span>
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </Panel>
  );
}
