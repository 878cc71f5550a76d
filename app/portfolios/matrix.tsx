import { decimal } from "~/design/format";
import { saveCsv } from "~/design/save";

interface Props {
  label: string;
  names: readonly string[];
  /** which stands where; all in their own order where left out */
  order?: readonly number[];
  values: readonly (readonly (number | null)[])[];
  /** above the diagonal, where another stretch is shown there */
  above?: readonly (readonly (number | null)[])[];
  fileName: string;
  text?: (value: number) => string;
  /** value from which on a cell is full of colour */
  full?: number;
}

/** Members against members: the deeper the colour the more alike (plum), the more opposed (ochre, underlined). */
export function Matrix({
  label,
  names,
  order = names.map((_, i) => i),
  values,
  above,
  fileName,
  text = (x) => decimal(x, 2),
  full = 1,
}: Props) {
  const at = (i: number, j: number, row: number, column: number) => (above !== undefined && column > row ? above[i][j] : values[i][j]);
  const save = () => saveCsv(fileName, ["member", ...order.map((i) => names[i])], order.map((i, r) => [names[i], ...order.map((j, c) => at(i, j, r, c) ?? "")])); // prettier-ignore
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={label}>
      <table className="border-separate border-spacing-[3px]">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th scope="col" className="text-left font-normal">
              <button type="button" className="quiet-link" onClick={save} aria-label={`Save “${label}” as CSV`}>
                CSV
              </button>
            </th>
            {order.map((i, k) => (
              <th key={i} scope="col" title={names[i]} className="max-w-[84px] min-w-[58px] truncate px-1 text-right font-normal">
                {k + 1} {names[i].split(" ")[0]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {order.map((i, row) => (
            <tr key={i}>
              <th scope="row" className="max-w-[170px] truncate pr-2 text-left font-normal" title={names[i]}>
                <span className="text-ink-soft">{row + 1}</span> {names[i]}
              </th>
              {order.map((j, column) => {
                const value = at(i, j, row, column);
                const strength = value === null ? 0 : Math.min(1, Math.abs(value) / full);
                const colour = value !== null && value < 0 ? "var(--ochre)" : "var(--plum)";
                return (
                  <td
                    key={j}
                    className={`figure-text px-1.5 text-right ${value !== null && value < 0 && i !== j ? "underline decoration-dotted" : ""}`}
                    style={{
                      background: i === j ? "var(--shade)" : `color-mix(in srgb, ${colour} ${Math.round(strength * 50)}%, transparent)`,
                    }}
                  >
                    {i === j ? "" : value === null ? "–" : text(value)}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
