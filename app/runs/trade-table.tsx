import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp, ChevronDown, ChevronRight, Download } from "lucide-react";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from "react";
import type { Trade } from "#core/documents";
import type { Grouping, MarketFacts } from "#core/reading";
import { decimal, signedMoney } from "~/design/format";
import { saveCsv } from "~/design/save";
import { FIRST_COLUMNS, TRADE_COLUMNS, type TradeColumn } from "./trade-columns";
import { groupedLines, isSubtotal, sortedTrades, type TradeLine, type TradeSubtotal } from "./trade-order";

interface TradeTableProps {
  trades: readonly Trade[];
  ticks: Record<string, number>;
  selected: number | null;
  onSelect: (id: number) => void;
  sort: string;
  onSort: (sort: string) => void;
  height?: number;
  fileName: string;
  /** keys of the columns in their order */
  columns?: readonly string[];
  /** heads with subtotals over the trades of a group */
  groups?: { by: Grouping; facts: MarketFacts } | null;
  /** stands beside the hint above the table */
  aside?: ReactNode;
}

const NONE: ReadonlySet<string> = new Set();

/** Trades as rows: sorted by any column, put together in groups, walked with the arrow keys. `sort` is a column's key, with a minus for descending. */
export function TradeTable({
  trades,
  ticks,
  selected,
  onSelect,
  sort,
  onSort,
  height = 300,
  fileName,
  columns: wanted = FIRST_COLUMNS,
  groups = null,
  aside,
}: TradeTableProps) {
  const scroll = useRef<HTMLDivElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  const [closed, setClosed] = useState<ReadonlySet<string>>(NONE);
  const several = useMemo(() => trades.some((trade) => trade.symbol !== trades[0].symbol), [trades]);
  const columns = useMemo(
    () =>
      wanted
        .flatMap((key) => TRADE_COLUMNS.find((column) => column.key === key) ?? [])
        .filter((column) => several || column.key !== "symbol"),
    [wanted, several],
  );
  const down = sort.startsWith("-");
  const by = sort.replace(/^-/, "");
  const sorted = useMemo(() => sortedTrades(trades, sort), [trades, sort]);
  const lines = useMemo(
    (): TradeLine[] => (groups === null ? sorted : groupedLines(sorted, groups.by, groups.facts, closed)),
    [sorted, groups, closed],
  );
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => 25,
    overscan: 20,
    enabled: ready,
  });
  const items = virtual.getVirtualItems();
  const at = useMemo(
    () => (selected === null ? -1 : lines.findIndex((line) => !isSubtotal(line) && line.id === selected)),
    [lines, selected],
  );
  // a trade that the address names is brought into view when the page opens
  useEffect(() => {
    if (ready && at > 8) virtual.scrollToIndex(at, { align: "center" });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ready]);
  const tick = (symbol: string) => ticks[symbol] ?? 0.01;
  const fold = (key: string) =>
    setClosed((before) => {
      const next = new Set(before);
      if (!next.delete(key)) next.add(key);
      return next;
    });

  const walk = (event: KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10, Home: -lines.length, End: lines.length };
    if (!(event.key in steps) || lines.length === 0) return;
    event.preventDefault();
    const by = steps[event.key];
    let next = Math.min(lines.length - 1, Math.max(0, (at < 0 ? -1 : at) + by));
    // heads of groups are passed over, on towards where the walk goes and else back
    const towards = Math.sign(by);
    while (lines[next] !== undefined && isSubtotal(lines[next])) next += towards;
    if (lines[next] === undefined) next = lines.findIndex((line) => !isSubtotal(line));
    const line = lines[next];
    if (line === undefined || isSubtotal(line)) return;
    onSelect(line.id);
    virtual.scrollToIndex(next);
  };

  const save = () =>
    saveCsv(
      fileName,
      columns.map((column) => column.key),
      sorted.map((trade) =>
        columns.map((column) => {
          if (column.key === "entryTime" || column.key === "exitTime") return trade[column.key] ?? "";
          const value = column.value(trade);
          return Number.isNaN(value) ? "" : value;
        }),
      ),
    );
  const before = items.length > 0 ? items[0].start : 0;
  const after = items.length > 0 ? virtual.getTotalSize() - items[items.length - 1].end : 0;
  return (
    <div>
      <div className="flex items-center gap-4 px-3.5 text-sm text-ink-soft">
        <span>arrow keys walk through the trades</span>
        {aside}
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
                <Head key={column.key} column={column} sorted={column.key === by ? (down ? "down" : "up") : null} onSort={onSort} />
              ))}
            </tr>
          </thead>
          <tbody>
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {items.map((item) => {
              const line = lines[item.index];
              if (line === undefined) return null;
              if (isSubtotal(line)) return <GroupHead key={line.key} group={line} columns={columns.length} onFold={() => fold(line.key)} />;
              const trade = line;
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
        {trades.length === 0 && (
          <p className="px-3.5 py-6 text-ink-soft">
            No trade: the rules never asked to enter while there was room, or every size came out too small.
          </p>
        )}
      </div>
    </div>
  );
}

function Head({ column, sorted, onSort }: { column: TradeColumn; sorted: "up" | "down" | null; onSort: (sort: string) => void }) {
  return (
    <th
      scope="col"
      aria-sort={sorted === null ? "none" : sorted === "down" ? "descending" : "ascending"}
      className={`px-2 py-1 font-normal first:pl-3.5 last:pr-3.5 ${column.left ? "text-left" : "text-right"}`}
    >
      <button
        type="button"
        title={column.name}
        onClick={() => onSort(sorted === "up" ? `-${column.key}` : column.key)}
        className={`inline-flex items-center gap-1 hover:text-ink ${sorted === null ? "" : "font-semibold text-ink"}`}
      >
        {column.head}
        {sorted === "down" && <ArrowDown size={12} aria-hidden />}
        {sorted === "up" && <ArrowUp size={12} aria-hidden />}
      </button>
    </th>
  );
}

/** A group's head: what its trades come to, and a way to fold them in. */
function GroupHead({ group, columns, onFold }: { group: TradeSubtotal; columns: number; onFold: () => void }) {
  const Arrow = group.closed ? ChevronRight : ChevronDown;
  return (
    <tr className="h-[25px] border-t border-edge bg-shade" data-group={group.key}>
      <th scope="rowgroup" colSpan={columns} className="px-3.5 text-left">
        <button type="button" onClick={onFold} aria-expanded={!group.closed} className="flex w-full items-center gap-2">
          <Arrow size={14} aria-hidden />
          {group.key}
          <span className="font-normal text-ink-soft">
            {decimal(group.count, 0)} {group.count === 1 ? "trade" : "trades"}, {decimal(group.winners, 0)} won
          </span>
          <span className={`figure-text ml-auto ${group.net < 0 ? "text-clay" : "text-river"}`}>{signedMoney(group.net)}</span>
        </button>
      </th>
    </tr>
  );
}
