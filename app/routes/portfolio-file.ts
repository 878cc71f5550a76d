import Papa from "papaparse";
import { switched } from "#core/regimes";
import { loadPortfolio } from "#server/portfolio-report";
import type { Route } from "./+types/portfolio-file";

/** `plan.json` (`canyon.portfolio/1`), `result.json` (`canyon.result/1`), `trades.csv`. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const { name, document, computed } = await loadPortfolio(context.services, params.id);
  const send = (text: string, type: string, file: string) =>
    new Response(text, {
      headers: { "content-type": `${type}; charset=utf-8`, "content-disposition": `attachment; filename="${`${name}-${file}`.replace(/[^A-Za-z0-9_.-]+/g, "-")}"` }, // prettier-ignore
    });
  if (params.what === "result.json") return send(`${JSON.stringify(computed.result)}\n`, "application/json", "result.json");
  if (params.what === "trades.csv") return send(`${Papa.unparse(computed.result.trades, { newline: "\n" })}\n`, "text/csv", "trades.csv");
  if (params.what !== "plan.json") throw new Response("There is no such file.", { status: 404 });
  const plan = {
    format: "canyon.portfolio/1",
    // bars are named by the files that the markets' pages export
    settings: { ...document.settings, markets: document.settings.markets.map((market) => ({ ...market, bars: `${market.symbol}.csv` })) },
    members: document.members.map(({ condition, markets, weight, marketLimit, name: member }, m) => {
      const { strategy } = computed.versions[m];
      return {
        name: member,
        strategy: condition === undefined ? strategy : switched(strategy, condition),
        markets,
        weight,
        marketLimit: marketLimit ?? null,
      };
    }),
    weights: document.weighting,
  };
  return send(`${JSON.stringify(plan, null, 2)}\n`, "application/json", "plan.json");
}
