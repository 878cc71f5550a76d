import { useMemo } from "react";
import { Link } from "react-router";
import { ALONG_CHARTS, alongOfParts, type AlongChart } from "#server/along";
import { headOfPage, loadPortfolio } from "#server/portfolio-report";
import { sectorsOf } from "#server/sectors";
import { alongOf } from "#core/reading";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { dateText, decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { useAddress } from "~/design/use-address";
import { Head } from "~/portfolios/head";
import { useStretches } from "~/portfolios/use-stretches";
import { ALONG_WORDS, alongTick } from "~/runs/along-words";
import type { Route } from "./+types/portfolio-along";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Along the way, ${page.head.name} · Canyon` : "Portfolio · Canyon" },
];
export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

const OFFERED: readonly AlongChart[] = ALONG_CHARTS.filter((chart) => chart !== "units");
const FIRST = "exposure,markets,sectors,positions,margin";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  const { simulation, result } = page.computed;
  const view = alongOfParts(
    {
      time: simulation.run.clock.times,
      equity: simulation.equity,
      along: alongOf(simulation.run),
      trades: result.trades,
      capital: page.document.settings.capital,
    },
    await sectorsOf(context.services),
    OFFERED,
    "",
  );
  return { head: headOfPage(page), ...view };
}

/** Is half the account ever in one name? Concentration by market, sector and side, positions and margin over time. */
export default function AlongPage({ loaderData: { head, charts, largest } }: Route.ComponentProps) {
  const stretches = useStretches(head);
  const { params, set } = useAddress();
  const keys = (params.get("show") ?? FIRST).split(",");
  const shown = OFFERED.filter((chart) => keys.includes(chart));
  const drawn = useMemo(() => charts.map(({ chart, lines }) => ({ chart, lines: lines.map((line) => lineFrom(line)) })), [charts]);
  const toggle = (chart: AlongChart) => {
    const next = OFFERED.filter((one) => (one === chart ? !shown.includes(one) : shown.includes(one))).join(",") || "none";
    set("show", next === FIRST ? null : next);
  };
  return (
    <>
      <Head head={head} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        {largest.length > 0 && (
          <Panel
            flush
            title="The largest positions"
            note="over all members, for each market the close at which it was the largest share of the equity"
          >
            <PlainTable
              label="The largest positions"
              fileName={`${head.name}-largest-positions`}
              heads={["market", "on", "side", "share of the equity, %", "trade"]}
              words={3}
              maxHeight={220}
              rows={largest.map(({ symbol, time, share, trade }) => ({
                key: symbol,
                cells: [
                  symbol,
                  dateText(time),
                  share > 0 ? "long" : "short",
                  decimal(100 * Math.abs(share), 1),
                  trade === null ? (
                    "–"
                  ) : (
                    <Link key="trade" className="quiet-link" to={`/portfolios/${head.id}/trades?trade=${trade}`}>
                      trade {trade}
                    </Link>
                  ),
                ],
                file: [symbol, dateText(time), share > 0 ? "long" : "short", 100 * Math.abs(share), trade],
              }))}
            />
          </Panel>
        )}
        <Panel>
          <div className="flex flex-wrap items-center gap-1.5" role="group" aria-label="Charts that are shown">
            {OFFERED.map((chart) => (
              <button
                key={chart}
                type="button"
                aria-pressed={shown.includes(chart)}
                title={ALONG_WORDS[chart].note}
                onClick={() => toggle(chart)}
                className={`rounded-[4px] border px-2 py-0.5 text-sm ${shown.includes(chart) ? "border-ink bg-shade" : "border-edge hover:border-ink-faint"}`}
              >
                {ALONG_WORDS[chart].name}
              </button>
            ))}
          </div>
        </Panel>
        {drawn
          .filter(({ chart }) => shown.includes(chart))
          .map(({ chart, lines }) => (
            <Panel key={chart} title={ALONG_WORDS[chart].name} note={ALONG_WORDS[chart].note}>
              <LinesChart
                stretches={stretches}
                label={ALONG_WORDS[chart].name}
                lines={lines}
                height={170}
                fileName={`${head.name}-${chart}`}
                tick={alongTick(chart)}
              />
            </Panel>
          ))}
      </div>
    </>
  );
}
