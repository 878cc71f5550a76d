import Papa from "papaparse";
import { reportFile } from "~/runs/report-file";
import type { Route } from "./+types/run-file";

/** A stored run as files: `result.json` (canyon.result/1), `settings.json` (canyon.settings/1, bars by hash), `trades.csv`, `report.html`. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const run = await context.services.runs.get(Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const send = (body: string, type: string) =>
    new Response(body, {
      headers: { "Content-Type": type, "Content-Disposition": `attachment; filename="run-${params.id}-${params.what}"` },
    });
  if (params.what === "result.json") return send(JSON.stringify(await run.result.document()), "application/json");
  if (params.what === "settings.json") return send(JSON.stringify(run.summary.settings, null, 2), "application/json");
  if (params.what === "trades.csv") return send(Papa.unparse(await run.result.trades(), { newline: "\n" }) + "\n", "text/csv");
  if (params.what === "report.html") {
    const { summary, version } = run;
    const result = await run.result.document();
    const { total } = await context.services.strategies.trialsOf(summary.strategyId);
    const page = reportFile({
      name: summary.strategyName,
      run: summary.number,
      version: summary.versionNumber,
      fingerprint: summary.fingerprint,
      engine: summary.engine,
      createdAt: summary.createdAt,
      settings: summary.settings,
      strategy: version.strategy,
      result,
      trials: total,
    });
    return send(page, "text/html; charset=utf-8");
  }
  throw new Response("There is no such file of a run; there are result.json, settings.json, trades.csv and report.html.", { status: 404 });
}
