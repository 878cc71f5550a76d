const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

interface Props {
  /** values by period: `2020-03`, and `2020` */
  months: ReadonlyMap<string, number | null>;
  years: ReadonlyMap<string, number | null>;
  text: (value: number | null) => string;
  total: (value: number | null) => string;
}

/** Years as rows, months as columns; losses are hatched, the best and the worst month boxed. */
export function YearTable({ months, years, text, total }: Props) {
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
          {[...years].map(([year, whole]) => (
            <tr key={year}>
              <th scope="row" className="figure-text text-left font-normal">
                {year}
              </th>
              {MONTHS.map((_, i) => {
                const value = months.get(`${year}-${String(i + 1).padStart(2, "0")}`);
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
                    {text(value)}
                  </td>
                );
              })}
              <td className="figure-text px-1 text-right font-semibold">{total(whole)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
