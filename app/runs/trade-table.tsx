import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp, Download } from "lucide-react";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { Trade } from "#core/documents";
import { decimal, price, signed, signedMoney } from "~/design/format";
import { saveCsv } from "~/design/save";

interface Column {
  key: string;
  head: string;
  value: (trade: Trade) => number | string;
  text: (trade: Trade, tick: (symbol: string) => number) => string;
  left?: boolean;
}

const COLUMNS: Column[] = [
  { key: "id", head: "trade", value: (t) => t.id, text: (t) => String(t.id) },
  { key: "symbol", head: "market", value: (t) => t.symbol, text: (t) => t.symbol, left: true },
  { key: "side", head: "side", value: (t) => t.side, text: (t) => t.side, left: true },
  { key: "units", head: "units", value: (t) => t.units, text: (t) => decimal(t.units, 0) },
  { key: "entryTime", head: "entry", value: (t) => t.entryTime, text: (t) => t.entryTime.slice(0, 10), left: true },
  { key: "entryPrice", head: "at", value: (t) => t.entryPrice, text: (t, tick) => price(t.entryPrice, tick(t.symbol)) },
  { key: "exitTime", head: "exit", value: (t) => t.exitTime ?? "9999", text: (t) => t.exitTime?.slice(0, 10) ?? "open", left: true },
  { key: "exitPrice", head: "at", value: (t) => t.exitPrice ?? NaN, text: (t, tick) => price(t.exitPrice, tick(t.symbol)) },
  { key: "exitReason", head: "by", value: (t) => t.exitReason ?? "", text: (t) => t.exitReason ?? "still open", left: true },
  { key: "bars", head: "bars", value: (t) => t.bars, text: (t) => decimal(t.bars, 0) },
  { key: "net", head: "net", value: (t) => t.net, text: (t) => signedMoney(t.net) },
  { key: "percent", head: "%", value: (t) => t.percent ?? NaN, text: (t) => signed(t.percent, 2) },
  { key: "r", head: "R", value: (t) => t.r ?? NaN, text: (t) => signed(t.r, 2) },
];

interface TradeTableProps {
  trades: readonly Trade[];
  ticks: Record<string, number>;
  selected: number | null;
  onSelect: (id: number) => void;
  sort: string;
  onSort: (sort: string) => void;
  height?: number;
  fileName: string;
}

/** Trades as rows: sorted by any column, walked with the arrow keys. `sort` is a column's key, with a minus for descending. */
export function TradeTable({ trades, ticks, selected, onSelect, sort, onSort, height = 300, fileName }: TradeTableProps) {
  const scroll = useRef<HTMLDivElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  const several = useMemo(() => new Set(trades.map((trade) => trade.symbol)).size > 1, [trades]);
  const columns = several ? COLUMNS : COLUMNS.filter((column) => column.key !== "symbol");
  const down = sort.startsWith("-");
  const by = columns.find((column) => column.key === sort.replace(/^-/, "")) ?? columns[0];
  const rows = useMemo(() => {
    const sign = down ? -1 : 1;
    const missing = (x: number | string) => typeof x === "number" && Number.isNaN(x);
    return [...trades].sort((a, b) => {
      const [x, y] = [by.value(a), by.value(b)];
      if (missing(x) || missing(y)) return Number(missing(x)) - Number(missing(y)) || a.id - b.id;
      return x < y ? -sign : x > y ? sign : a.id - b.id;
    });
  }, [trades, by, down]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => 25,
    overscan: 12,
    enabled: ready,
  });
  const items = virtual.getVirtualItems();
  const at = rows.findIndex((trade) => trade.id === selected);
  // a trade that the address names is brought into view when the page opens
  useEffect(() => {
    if (ready && at > 8) virtual.scrollToIndex(at, { align: "center" });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ready]);
  const tick = (symbol: string) => ticks[symbol] ?? 0.01;

  const walk = (event: KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10, Home: -rows.length, End: rows.length };
    if (!(event.key in steps) || rows.length === 0) return;
    event.preventDefault();
    const next = Math.min(rows.length - 1, Math.max(0, (at < 0 ? -1 : at) + steps[event.key]));
    onSelect(rows[next].id);
    virtual.scrollToIndex(next);
  };

  const save = () =>
    saveCsv(
      fileName,
      columns.map((column) => column.key),
      rows.map((trade) =>
        columns.map((column) => (column.key.endsWith("Time") ? (trade[column.key as "entryTime"] ?? "") : column.value(trade))),
      ),
    );
  const before = items.length > 0 ? items[0].start : 0;
  const after = items.length > 0 ? virtual.getTotalSize() - items[items.length - 1].end : 0;
  return (
    <div>
      <div className="flex items-center px-3.5 text-sm text-ink-soft">
        <span>arrow keys walk through the trades</span>
        <button
          type="button"
          onClick={save}
          aria-label="Save the trades as CSV"
          title="Save as CSV"
          className="ml-auto rounded p-1 hover:bg-shade"
        >
          <Download size={15} aria-hidden />
        </button>
      </div>
      <div
        ref={scroll}
        style={{ height }}
        className="overflow-auto"
        tabIndex={0}
        role="region"
        aria-label="Trades; arrow keys select"
        onKeyDown={walk}
      >
        <table className="w-full border-collapse">
          <thead className="sticky top-0 z-10 bg-sheet text-sm text-ink-soft">
            <tr>
              {columns.map((column) => (
                <th
                  key={column.key}
                  scope="col"
                  aria-sort={column === by ? (down ? "descending" : "ascending") : "none"}
                  className={`px-2 py-1 font-normal first:pl-3.5 last:pr-3.5 ${column.left ? "text-left" : "text-right"}`}
                >
                  <button
                    type="button"
                    onClick={() => onSort(column === by && !down ? `-${column.key}` : column.key)}
                    className={`inline-flex items-center gap-1 hover:text-ink ${column === by ? "font-semibold text-ink" : ""}`}
                  >
                    {column.head}
                    {column === by && (down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {items.map((item) => {
              const trade = rows[item.index];
              return (
                <tr
                  key={trade.id}
                  onClick={() => onSelect(trade.id)}
                  aria-selected={trade.id === selected}
                  data-trade={trade.id}
                  className={`h-[25px] cursor-pointer border-t border-edge/60 ${trade.id === selected ? "bg-shade/40 outline outline-1 -outline-offset-1 outline-ink-faint" : "hover:bg-shade/50"}`}
                >
                  {columns.map((column) => (
                    <td
                      key={column.key}
                      className={`figure-text px-2 whitespace-nowrap first:pl-3.5 last:pr-3.5 ${column.left ? "text-left" : "text-right"} ${column.key === "net" ? (trade.net < 0 ? "text-clay" : trade.net > 0 ? "text-river" : "") : ""}`}
                    >
                      {column.text(trade, tick)}
                    </td>
                  ))}
                </tr>
              );
            })}
            {after > 0 && <tr style={{ height: after }} aria-hidden />}
          </tbody>
        </table>
        {rows.length === 0 && (
          <p className="px-3.5 py-6 text-ink-soft">
            No trade: the rules never asked to enter while there was room, or every size came out too small.
          </p>
        )}
      </div>
    </div>
  );
}
