import { useMemo, useState } from "react";
import type { OrderRecord } from "#core/documents";
import { decimal, price } from "~/design/format";
import { Panel } from "~/design/panel";
import { saveCsv } from "~/design/save";

const SHOWN = 300;

/** Orders that never filled, by what became of them. */
export function UnfilledOrders({ orders, ticks, run }: { orders: readonly OrderRecord[]; ticks: Record<string, number>; run: number }) {
  const [status, setStatus] = useState<string | null>(null);
  const unfilled = useMemo(() => orders.filter((order) => order.status !== "filled"), [orders]);
  const counts = useMemo(() => {
    const out = new Map<string, number>();
    for (const order of unfilled) out.set(order.status, (out.get(order.status) ?? 0) + 1);
    return [...out];
  }, [unfilled]);
  const rows = status === null ? unfilled : unfilled.filter((order) => order.status === status);
  const pill = (key: string | null, name: string, count: number) => (
    <button
      key={name}
      type="button"
      aria-pressed={status === key}
      onClick={() => setStatus(key)}
      className={`rounded-[4px] border px-2 py-0.5 text-sm ${status === key ? "border-ink bg-shade" : "border-edge hover:border-ink-faint"}`}
    >
      {name} <span className="figure-text">{decimal(count, 0)}</span>
    </button>
  );
  return (
    <Panel
      flush
      title="Orders that never filled"
      note={
        unfilled.length === 0
          ? `none: all ${decimal(orders.length, 0)} orders filled`
          : `${decimal(unfilled.length, 0)} of ${decimal(orders.length, 0)}`
      }
      aside={
        unfilled.length > 0 && (
          <button
            type="button"
            className="quiet-link"
            onClick={() =>
              saveCsv(
                `run-${run}-unfilled-orders`,
                ["id", "symbol", "side", "purpose", "type", "price", "units", "placed", "ended", "status", "why"],
                rows.map((o) => [
                  o.id,
                  o.symbol,
                  o.side,
                  o.purpose,
                  o.type,
                  o.price ?? "",
                  o.units,
                  o.placed,
                  o.ended ?? "",
                  o.status,
                  o.why,
                ]),
              )
            }
          >
            CSV
          </button>
        )
      }
    >
      {unfilled.length > 0 && (
        <>
          <div className="flex flex-wrap gap-1.5 px-3.5 pt-1 pb-2">
            {pill(null, "all", unfilled.length)}
            {counts.map(([key, count]) => pill(key, key, count))}
          </div>
          <div className="max-h-64 overflow-auto" tabIndex={0} role="region" aria-label="Orders that never filled">
            <table className="w-full border-collapse">
              <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
                <tr>
                  {["placed", "ended", "market", "side", "for", "kind", "at", "units", "what became of it"].map((head, i) => (
                    <th
                      key={head}
                      scope="col"
                      className={`px-2 py-1 font-normal first:pl-3.5 ${i === 6 || i === 7 ? "text-right" : "text-left"}`}
                    >
                      {head}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.slice(0, SHOWN).map((order) => (
                  <tr key={order.id} className="border-t border-edge/60">
                    <td className="figure-text px-2 pl-3.5 whitespace-nowrap">
                      {order.placed.slice(0, 16).replace("T00:00", "").replace("T", " ")}
                    </td>
                    <td className="figure-text px-2 whitespace-nowrap">
                      {order.ended?.slice(0, 16).replace("T00:00", "").replace("T", " ") ?? "–"}
                    </td>
                    <td className="figure-text px-2">{order.symbol}</td>
                    <td className="px-2">{order.side}</td>
                    <td className="px-2">{order.purpose}</td>
                    <td className="px-2">{order.type}</td>
                    <td className="figure-text px-2 text-right">{price(order.price, ticks[order.symbol] ?? 0.01)}</td>
                    <td className="figure-text px-2 text-right">{decimal(order.units, 0)}</td>
                    <td className="px-2 text-ink-soft">
                      {order.status}: {order.why}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {rows.length > SHOWN && (
            <p className="px-3.5 py-1 text-sm text-ink-soft">
              the first {SHOWN} of {decimal(rows.length, 0)}; the file has all
            </p>
          )}
        </>
      )}
    </Panel>
  );
}
