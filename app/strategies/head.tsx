import type { ReactNode } from "react";
import { NavLink } from "react-router";
import type { Layer } from "#server/layers";
import { PageHead } from "~/design/panel";
import { Strata } from "~/design/strata";

export interface StrategyHeadProps {
  id: number;
  name: string;
  about: ReactNode;
  layers: readonly Layer[];
  counts: { runs: number; optimizations: number; probes: number; versions: number };
  actions?: ReactNode;
}

/** A strategy's head on all its pages: evidence, name, and the way to its parts. */
export function StrategyHead({ id, name, about, layers, counts, actions }: StrategyHeadProps) {
  const tabs: [to: string, name: string, count: number | null][] = [
    ["", "Rules", null],
    ["/runs", "Runs", counts.runs],
    ["/optimizations", "Optimizations", counts.optimizations],
    ["/evidence", "Evidence", counts.probes],
    ["/versions", "Versions", counts.versions],
  ];
  return (
    <>
      <PageHead title={name} about={about} actions={actions} mark={<Strata layers={layers} width={20} height={52} />} />
      <nav aria-label="Parts of the strategy" className="mb-3 flex gap-5 border-b border-edge">
        {tabs.map(([to, label, count]) => (
          <NavLink
            key={label}
            end
            to={`/strategies/${id}${to}`}
            className={({ isActive }) =>
              `-mb-px border-b-2 pb-1.5 no-underline ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-soft hover:text-ink"}`
            }
          >
            {label} {count !== null && <span className="text-ink-soft">{count}</span>}
          </NavLink>
        ))}
      </nav>
    </>
  );
}
