import Papa from "papaparse";
import { METRIC_KEYS } from "#core/metrics";
import type { Route } from "./+types/trials-file";

/** All trials of an optimization as CSV, by number; sent as they are read, since there may be very many. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const { optimizations, trials } = context.services;
  const view = await optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const names = view.search.vary.map((item) => item.name);
  const encoder = new TextEncoder();
  const parts = trials.everything(view);
  const body = new ReadableStream<Uint8Array>({
    start: (controller) => controller.enqueue(encoder.encode(`${Papa.unparse([["trial", ...names, "fit", ...METRIC_KEYS]])}\n`)),
    async pull(controller) {
      const { value, done } = await parts.next();
      if (done) return controller.close();
      const rows = value.map((row) => [
        row.number,
        ...names.map((name) => row.values[name]),
        row.fit,
        ...METRIC_KEYS.map((key) => row.metrics[key]),
      ]);
      controller.enqueue(encoder.encode(`${Papa.unparse(rows, { newline: "\n" })}\n`));
    },
  });
  return new Response(body, {
    headers: { "Content-Type": "text/csv", "Content-Disposition": `attachment; filename="optimization-${view.id}-trials.csv"` },
  });
}
