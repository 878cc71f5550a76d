import { ArrowDown, ArrowUp } from "lucide-react";
import type { ReactNode } from "react";

interface Props {
  /** the column's own key */
  column: string;
  /** the key that the table is sorted by, with a minus for descending */
  sort: string;
  onSort: (sort: string) => void;
  children: ReactNode;
}

/** The head of a column of figures by which a table is sorted: the largest first, a second time the smallest. */
export function SortHead({ column, sort, onSort, children }: Props) {
  const on = sort.replace(/^-/, "") === column;
  const down = sort.startsWith("-");
  return (
    <th scope="col" aria-sort={on ? (down ? "descending" : "ascending") : "none"} className="px-2 py-1 text-right font-normal">
      <button
        type="button"
        onClick={() => onSort(on && down ? column : `-${column}`)}
        className={`inline-flex items-center gap-1 hover:text-ink ${on ? "font-semibold text-ink" : ""}`}
      >
        {children}
        {on && (down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
      </button>
    </th>
  );
}
