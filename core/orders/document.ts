import { ENGINE_VERSION } from "#core/documents";
import type { SheetWithChanges } from "./changes";
import type { SheetOrder } from "./sheet";

/** `canyon.orders/1`: what runs ask for in the next session. */
export interface OrdersDocument {
  format: "canyon.orders/1";
  engine: string;
  sheets: ({ name: string; fingerprint: string } & SheetWithChanges)[];
}

/** Sheets, each with the name of what asks, as one open document. */
export const ordersDocument = (sheets: OrdersDocument["sheets"]): OrdersDocument => ({
  format: "canyon.orders/1",
  engine: ENGINE_VERSION,
  sheets,
});

export const ORDER_COLUMNS = [
  "for",
  "member",
  "market",
  "session",
  "purpose",
  "side",
  "order",
  "price",
  "units",
  "closes",
  "stop",
  "target",
  "levels",
  "formed",
  "works",
  "rule",
  "values",
] as const;

/** The orders of sheets as rows in the order of ORDER_COLUMNS; empty where there is none. */
export function orderRows(sheets: OrdersDocument["sheets"]): (string | number)[][] {
  return sheets.flatMap((sheet) => sheet.orders.map((order) => [sheet.name, ...rowOf(order, sheet)]));
}

function rowOf(order: SheetOrder, { markets }: SheetWithChanges): (string | number)[] {
  const next = markets.find(({ symbol }) => symbol === order.symbol)?.next ?? "";
  return [
    order.member ?? "",
    order.symbol,
    next,
    order.purpose,
    order.side,
    order.type,
    order.price ?? "",
    order.units,
    order.closes,
    order.stop ?? "",
    order.target ?? "",
    order.stop === null && order.target === null ? "" : order.about ? "about" : "exact",
    order.formed,
    order.barsLeft ?? "",
    order.rule,
    order.values.map(({ text, value }) => `${text} = ${value ?? "missing"}`).join("; "),
  ];
}
