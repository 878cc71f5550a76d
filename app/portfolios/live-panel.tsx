import { useMemo } from "react";
import { parseDate } from "#core/bars";
import { isEstimated, STRETCH_KEYS, type StretchRow, type Weighting } from "#core/portfolio";
import { EquityChart, type Stretch } from "~/charts/equity-chart";
import { decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import { FIGURE_WORDS } from "./words";
import type { LiveState } from "./use-live-portfolio";

interface Props {
  live: LiveState;
  capital: number;
  currency: string;
  members: number;
  weighting: Weighting;
}

/** The stretches of estimating and judging, for charts. */
export function stretchesFor(weighting: Weighting, last: number): Stretch[] {
  if (!isEstimated(weighting) || !weighting.from || !weighting.to) return [];
  const [from, to] = [parseDate(weighting.from), parseDate(weighting.to)];
  if (from === null || to === null) return [];
  return [
    { name: "weights estimated", from: from * 86_400_000, to: to * 86_400_000, tint: "in-sample" },
    { name: "judged", from: (to + 1) * 86_400_000, to: last, tint: "judged" },
  ];
}

/** What the members come to as they stand, computed while they are changed. */
export function LivePanel({ live: { view, current }, capital, currency, members, weighting }: Props) {
  const last = view === null ? 0 : view.times[view.times.length - 1];
  const stretches = useMemo(() => stretchesFor(weighting, last), [weighting, last]);
  const curves = useMemo(() => (view === null ? [] : [{ name: "together", values: view.equity, role: "main" as const }]), [view]);
  if (view === null)
    return (
      <Panel title="Together">
        <p className="text-ink-soft">
          {members < 2 ? "With two members their account shows here, and follows every change." : "Computing …"}
        </p>
      </Panel>
    );
  const rows: [string, StretchRow][] = [["whole", view.figures]];
  if (view.estimated !== null) rows.push(["weights estimated", view.estimated]);
  if (view.judged !== null) rows.push(["judged", view.judged]);
  return (
    <Panel
      title="Together"
      note={`on one account, simulated together${view.refits > 0 ? `; weights estimated anew ${view.refits} times` : ""}`}
      aside={<span data-live={current ? "current" : "waiting"}>{current ? `${decimal(view.took, 0)} ms` : "…"}</span>}
    >
      <table className="mb-2 w-full">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th scope="col" className="text-left font-normal">
              stretch
            </th>
            {STRETCH_KEYS.map((key) => (
              <th key={key} scope="col" className="text-right font-normal" title={FIGURE_WORDS[key].about}>
                {FIGURE_WORDS[key].name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, row]) => (
            <tr key={name} className="border-t border-edge/60">
              <th scope="row" className="text-left font-normal">
                {name}
              </th>
              {STRETCH_KEYS.map((key) => (
                <td key={key} className="figure-text text-right" data-live-figure={`${name} ${key}`}>
                  {decimal(row[key], 2)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <EquityChart
        times={view.times}
        curves={curves}
        capital={capital}
        currency={currency}
        stretches={stretches}
        height={250}
        fileName="portfolio-live"
      />
    </Panel>
  );
}
