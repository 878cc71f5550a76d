import type { RunResult } from "#core/documents";
import { decimal, signed } from "~/design/format";

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Years as rows, months as columns; losses are hatched, the best and the worst month boxed. */
export function YearTable({ tables }: { tables: RunResult["tables"] }) {
  const months = new Map(tables.months.map((row) => [row.period, row.percent]));
  const values = [...months.values()].filter((x): x is number => x !== null && x !== 0);
  const best = Math.max(...values);
  const worst = Math.min(...values);
  const deepest = Math.max(...values.map(Math.abs), 1e-9);
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Returns by year and month">
      <table className="w-full border-separate border-spacing-[2px]">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th scope="col" className="text-left font-normal">
              <span className="sr-only">year</span>
            </th>
            {MONTHS.map((month) => (
              <th key={month} scope="col" className="px-1 text-right font-normal">
                {month}
              </th>
            ))}
            <th scope="col" className="px-1 text-right font-semibold text-ink">
              year
            </th>
          </tr>
        </thead>
        <tbody>
          {tables.years.map((year) => (
            <tr key={year.period}>
              <th scope="row" className="figure-text text-left font-normal">
                {year.period}
              </th>
              {MONTHS.map((_, i) => {
                const value = months.get(`${year.period}-${String(i + 1).padStart(2, "0")}`);
                if (value === undefined) return <td key={i} />;
                const share = Math.round(70 * Math.min(1, Math.abs(value ?? 0) / deepest));
                const tint =
                  value === null || value === 0
                    ? undefined
                    : value > 0
                      ? { background: `color-mix(in srgb, var(--river) ${share * 0.6}%, transparent)` }
                      : {
                          backgroundImage: `repeating-linear-gradient(135deg, color-mix(in srgb, var(--clay) ${12 + share * 0.5}%, transparent) 0 2px, transparent 2px 5px)`,
                        };
                return (
                  <td
                    key={i}
                    style={tint}
                    className={`figure-text px-1 text-right ${value !== null && (value === best || value === worst) ? "outline outline-1 outline-ink" : ""} ${value === 0 ? "text-ink-soft" : ""}`}
                  >
                    {decimal(value, 1)}
                  </td>
                );
              })}
              <td className="figure-text px-1 text-right font-semibold">{signed(year.percent, 1)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
