import { Download } from "lucide-react";
import type { ReactNode } from "react";
import { saveCsv } from "./save";

export interface PlainRow {
  key: string | number;
  /** what is shown, the row's head first */
  cells: readonly ReactNode[];
  /** the same for a file: full figures */
  file: readonly (string | number | null)[];
  strong?: boolean;
}

interface Props {
  label: string;
  heads: readonly string[];
  /** columns from the left that hold words */
  words?: number;
  rows: readonly PlainRow[];
  fileName: string;
  maxHeight?: number;
}

/** A table of figures that can be saved as CSV. */
export function PlainTable({ label, heads, words = 1, rows, fileName, maxHeight }: Props) {
  const side = (i: number) => (i < words ? "text-left" : "text-right");
  return (
    <div className="overflow-auto" style={{ maxHeight }} tabIndex={0} role="region" aria-label={label}>
      <table className="w-full border-collapse">
        <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
          <tr>
            {heads.map((head, i) => (
              <th key={head} scope="col" className={`px-2 py-1 font-normal first:pl-3.5 last:pr-3.5 ${side(i)}`}>
                {head}
                {i === 0 && (
                  <button
                    type="button"
                    onClick={() =>
                      saveCsv(
                        fileName,
                        [...heads],
                        rows.map((row) => row.file.map((cell) => cell ?? "")),
                      )
                    }
                    aria-label={`Save “${label}” as CSV`}
                    title="Save as CSV"
                    className="ml-1.5 rounded p-0.5 align-middle hover:bg-shade"
                  >
                    <Download size={13} aria-hidden />
                  </button>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key} className={`border-t border-edge/60 ${row.strong ? "bg-shade font-semibold" : ""}`}>
              {row.cells.map((cell, i) =>
                i === 0 ? (
                  <th key={i} scope="row" className={`py-0.5 pr-2 pl-3.5 text-left ${row.strong ? "" : "font-normal"}`}>
                    {cell}
                  </th>
                ) : (
                  <td key={i} className={`px-2 py-0.5 last:pr-3.5 ${side(i)} ${i < words ? "" : "figure-text whitespace-nowrap"}`}>
                    {cell}
                  </td>
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
