import Papa from "papaparse";
import { ORDER_COLUMNS, orderRows } from "#core/orders";
import { orderSheets, sheetsDocument } from "#server/orders";
import type { Route } from "./+types/orders-file";

/** `orders.json` (`canyon.orders/1`) and `orders.csv`. */
export async function loader({ context, params, request }: Route.LoaderArgs) {
  const document = sheetsDocument(await orderSheets(context.services, new URL(request.url).searchParams.get("on")));
  const send = (text: string, type: string) =>
    new Response(text, {
      headers: { "content-type": `${type}; charset=utf-8`, "content-disposition": `attachment; filename="${params.what}"` },
    });
  if (params.what === "orders.json") return send(`${JSON.stringify(document)}\n`, "application/json");
  if (params.what === "orders.csv")
    return send(`${Papa.unparse([[...ORDER_COLUMNS], ...orderRows(document.sheets)], { newline: "\n" })}\n`, "text/csv");
  throw new Response("There is no such file.", { status: 404 });
}
