import type { ReactNode } from "react";
import { STRETCH_KEYS, type StretchRow } from "#core/portfolio";
import { decimal } from "~/design/format";
import { PlainTable } from "~/design/plain-table";
import { FIGURE_WORDS } from "./words";

export interface NamedRow {
  key: string;
  name: ReactNode;
  /** the name in a file */
  plain: string;
  row: StretchRow;
  strong?: boolean;
  after?: ReactNode;
}

/** Accounts beside each other by the figures that portfolios are compared by. */
export function StretchRows({
  label,
  first,
  rows,
  fileName,
  after,
}: {
  label: string;
  first: string;
  rows: readonly NamedRow[];
  fileName: string;
  after?: string;
}) {
  return (
    <PlainTable
      label={label}
      fileName={fileName}
      heads={[first, ...STRETCH_KEYS.map((key) => FIGURE_WORDS[key].name), ...(after === undefined ? [] : [after])]}
      rows={rows.map(({ key, name, plain, row, strong, after: more }) => ({
        key,
        strong,
        cells: [name, ...STRETCH_KEYS.map((figure) => decimal(row[figure], 2)), ...(after === undefined ? [] : [more ?? ""])],
        file: [plain, ...STRETCH_KEYS.map((figure) => row[figure]), ...(after === undefined ? [] : [""])],
      }))}
    />
  );
}
