import type { Strategy } from "#core/documents";
import type { RuleName } from "#core/runs";
import { settingNames, textInWords } from "#core/wording";
import { Select } from "~/design/field";
import { dateText, momentText } from "~/design/format";
import type { BarWhy, WhyData } from "./use-why";
import { WhyTree } from "./tree";

interface WhyPanelProps {
  strategy: Strategy;
  symbol: string;
  daily: boolean;
  data: WhyData | null;
  bar: BarWhy | null;
  problem: string | null;
  /** the rule whose conditions are drawn below the prices */
  rule: RuleName;
  onRule: (rule: RuleName) => void;
  /** the condition that is tinted on the chart, or −1 */
  tint: number;
  onTint: (condition: number) => void;
  onTime: (time: number) => void;
  onClose: () => void;
}

/** Why a bar did what it did: every rule with each part's value there, and where else one condition alone was missing. */
export function WhyPanel({ strategy, symbol, daily, data, bar, problem, rule, onRule, tint, onTint, onTime, onClose }: WhyPanelProps) {
  const settings = settingNames(strategy);
  const chosen = data?.rules.find((one) => one.rule === rule) ?? data?.rules[0];
  const shown = bar?.rules.find((one) => one.rule === chosen?.rule);
  const when = (time: number) => (daily ? dateText(time) : momentText(time));
  const misses = chosen?.nearMisses ?? [];
  const place = bar === null || data === null ? -1 : misses.findIndex(({ row }) => data.times[row] >= bar.time);
  const step = (by: 1 | -1) => {
    if (data === null || bar === null || misses.length === 0) return;
    const next =
      by === 1 ? misses.find(({ row }) => data.times[row] > bar.time) : [...misses].reverse().find(({ row }) => data.times[row] < bar.time);
    if (next !== undefined) onTime(data.times[next.row]);
  };
  return (
    <div className="flex flex-col gap-2 rounded-[4px] border border-edge bg-sheet px-3.5 py-3" role="region" aria-label="Why here">
      <div className="flex items-baseline justify-between">
        <h2 className="text-lg">Why here?</h2>
        <button type="button" className="quiet-link text-sm" onClick={onClose}>
          back to the rules
        </button>
      </div>
      {problem !== null && (
        <p role="alert" className="text-clay">
          {problem}
        </p>
      )}
      {bar === null ? (
        <p className="text-ink-soft">Click a bar on the prices, or choose a trade; every rule is taken apart at its close.</p>
      ) : (
        <>
          <p>
            <span className="figure-text">{symbol}</span>, {when(bar.time)}, at the close: {bar.position}.
          </p>
          {data !== null && data.rules.length > 1 && (
            <Select
              label="Rule"
              hideLabel
              value={chosen?.rule ?? ""}
              choices={data.rules.map((one) => ({
                value: one.rule,
                label: `${one.rule}: ${bar.rules.find((r) => r.rule === one.rule)?.tree.value === 1 ? "yes" : "no"}`,
              }))}
              onChange={(next) => onRule(next as RuleName)}
            />
          )}
          {shown && (
            <div className="border-t border-edge pt-1">
              <h3 className="font-semibold">
                {shown.rule}:{" "}
                <span className={shown.tree.value === 1 ? "text-moss-ink" : "text-clay"}>{shown.tree.value === 1 ? "yes" : "no"}</span>
              </h3>
              <WhyTree tree={shown.tree} settings={settings} top />
            </div>
          )}
        </>
      )}
      {chosen !== undefined && data !== null && (
        <>
          <div className="border-t border-edge pt-2">
            <h3 className="font-semibold">One condition was missing</h3>
            {chosen.texts.length < 2 ? (
              <p className="text-sm text-ink-soft">This rule has one condition only.</p>
            ) : misses.length === 0 ? (
              <p className="text-sm text-ink-soft">On no bar did exactly one condition keep it from firing.</p>
            ) : (
              <>
                <p className="flex items-center gap-2 text-sm text-ink-soft">
                  on {misses.length} bars
                  <button type="button" className="quiet-link" onClick={() => step(-1)} disabled={bar === null}>
                    ← the one before
                  </button>
                  <button type="button" className="quiet-link" onClick={() => step(1)} disabled={bar === null}>
                    the next (N) →
                  </button>
                </p>
                <ul className="max-h-40 overflow-auto text-sm" aria-label="Bars on which one condition was missing">
                  {misses.slice(Math.max(0, place - 2), Math.max(0, place - 2) + 40).map(({ row, missing }) => (
                    <li key={row}>
                      <button
                        type="button"
                        onClick={() => onTime(data.times[row])}
                        className={`flex w-full gap-2 text-left hover:bg-shade ${bar?.time === data.times[row] ? "bg-shade font-semibold" : ""}`}
                      >
                        <span className="figure-text shrink-0">{when(data.times[row])}</span>
                        <span className="truncate text-ink-soft">{textInWords(chosen.texts[missing], settings)}</span>
                      </button>
                    </li>
                  ))}
                </ul>
              </>
            )}
          </div>
          <div className="border-t border-edge pt-2">
            <h3 className="font-semibold">Tint the bars where it holds</h3>
            <ul>
              {[...(chosen.texts.length > 1 ? chosen.texts : []), chosen.text].map((text, k, all) => {
                const index = k === all.length - 1 ? all.length - 1 : k;
                return (
                  <li key={k}>
                    <label className="flex items-baseline gap-2 text-sm">
                      <input type="checkbox" checked={tint === index} onChange={(event) => onTint(event.target.checked ? index : -1)} />
                      <span>{k === all.length - 1 ? "the whole rule" : textInWords(text, settings)}</span>
                    </label>
                  </li>
                );
              })}
            </ul>
          </div>
        </>
      )}
      <p className="border-t border-edge pt-2 text-sm text-ink-soft">
        <kbd>←</kbd> <kbd>→</kbd> bar to bar, <kbd>↑</kbd> <kbd>↓</kbd> trade to trade, <kbd>N</kbd> next near miss, <kbd>E</kbd> tint
      </p>
    </div>
  );
}
