import Papa from "papaparse";
import type { Route } from "./+types/trials-file";

/** All trials of an optimization as CSV, by number. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const { optimizations } = context.services;
  const view = await optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const { rows } = await optimizations.trials(view.id, "number", false, 0, 1_000_000);
  const body = Papa.unparse(
    rows.map((row) => ({ trial: row.number, ...row.values, fit: row.fit, ...row.metrics })),
    { newline: "\n" },
  );
  return new Response(body + "\n", {
    headers: { "Content-Type": "text/csv", "Content-Disposition": `attachment; filename="optimization-${view.id}-trials.csv"` },
  });
}
