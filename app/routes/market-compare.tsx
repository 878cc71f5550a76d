import { useMemo } from "react";
import { Link } from "react-router";
import type { Shift } from "#core/quality";
import { isRefused } from "#server/problem";
import { ColumnsChart } from "~/charts/columns-chart";
import { dateText, decimal, momentText, price, signed } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { MarketHead } from "~/markets/head";
import type { Route } from "./+types/market-compare";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol}, two sources · Canyon` }];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { markets, quality } = context.services;
  const market = await markets.bySymbol(params.symbol);
  if (market === null) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  const query = new URL(request.url).searchParams;
  const [a, b] = ["a", "b"].map((key) => market.sources.find((source) => source.id === Number(query.get(key))));
  if (a === undefined || b === undefined || a === b) throw new Response("Choose two sources of this market to compare.", { status: 404 });
  try {
    return { market, a, b, comparison: await quality.compare(market, a, b), problems: [] };
  } catch (error) {
    if (isRefused(error)) return { market, a, b, comparison: null, problems: error.problems };
    throw error;
  }
}

function shiftText({ minutes }: Shift, name: string, daily: boolean): string {
  if (minutes === 0) return "agree best as they stand";
  const size = Math.abs(minutes);
  const words = daily
    ? `${size / 1440} ${size === 1440 ? "day" : "days"}`
    : size % 60 === 0
      ? `${size / 60} ${size === 60 ? "hour" : "hours"}`
      : `${size} minutes`;
  return `agree best with ${name} moved ${words} ${minutes > 0 ? "later" : "earlier"}`;
}

export default function ComparePage({ loaderData: { market, a, b, comparison, problems } }: Route.ComponentProps) {
  const names = useMemo(
    () =>
      comparison?.histogram.map(({ ticks }, i, all) => (i === 0 ? `≤ ${ticks}` : i === all.length - 1 ? `≥ ${ticks}` : String(ticks))) ??
      [],
    [comparison],
  );
  const counts = useMemo(
    () => comparison?.histogram.map((bin) => (comparison.both === 0 ? 0 : (100 * bin.count) / comparison.both)) ?? [],
    [comparison],
  );
  const { tick } = market.spec;
  const daily = a.timeframe === "1d";
  return (
    <>
      <MarketHead market={market} />
      <Problems problems={problems} title="These two can't be compared" />
      {comparison !== null && (
        <div className="grid grid-cols-[minmax(330px,2fr)_3fr] gap-3">
          <div className="flex flex-col gap-3">
            <Panel title={`${a.name} and ${b.name}`} note={`${a.timeframe} bars`}>
              {comparison.from === null ? (
                <p>They have no stretch of time in common.</p>
              ) : (
                <dl className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-1">
                  {(
                    [
                      ["both cover", `${dateText(comparison.from)} to ${dateText(comparison.to!)}`],
                      ["bars of both", decimal(comparison.both, 0)],
                      [`only ${a.name}`, decimal(comparison.onlyA, 0)],
                      [`only ${b.name}`, decimal(comparison.onlyB, 0)],
                      [
                        "equal closes",
                        `${decimal(comparison.equal, 0)}, ${decimal((100 * comparison.equal) / Math.max(1, comparison.both), 1)} %`,
                      ],
                      ["moves agree as they stand", decimal(comparison.shift.unshifted, 3)],
                    ] as [string, string][]
                  ).map(([name, value]) => (
                    <div key={name} className="contents">
                      <dt className="text-ink-soft">{name}</dt>
                      <dd className="figure-text text-right">{value}</dd>
                    </div>
                  ))}
                </dl>
              )}
            </Panel>
            <Panel title="Clocks" note="a wrong time zone is the most common fault">
              <p data-shift={comparison.shift.minutes}>
                Most of the time they {shiftText(comparison.shift, b.name, daily)}
                {comparison.shift.minutes !== 0 &&
                  ` (${decimal(comparison.shift.agreement, 3)} instead of ${decimal(comparison.shift.unshifted, 3)})`}
                .
              </p>
              {comparison.stretches.length > 0 && (
                <ul className="mt-2">
                  {comparison.stretches
                    .filter((stretch) => stretch.minutes !== comparison.shift.minutes)
                    .map((stretch) => (
                      <li key={stretch.from} className="border-l-4 border-ochre px-3 py-1">
                        About {dateText(stretch.from)} to {dateText(stretch.to)} they {shiftText(stretch, b.name, daily)} (
                        {decimal(stretch.agreement, 3)} instead of {decimal(stretch.unshifted, 3)}).
                      </li>
                    ))}
                </ul>
              )}
            </Panel>
            <Panel title="Spread of the difference" note={`close of ${b.name} − ${a.name}`}>
              <dl className="grid grid-cols-[1fr_auto] gap-x-4">
                {comparison.spread.map(({ percent, difference }) => (
                  <div key={percent} className="contents">
                    <dt className="text-ink-soft">{percent} % of bars at or below</dt>
                    <dd className="figure-text text-right">{signed(difference, 4)}</dd>
                  </div>
                ))}
              </dl>
            </Panel>
          </div>
          <div className="flex min-w-0 flex-col gap-3">
            <Panel title="Difference in ticks" note="share of bars, %">
              <ColumnsChart
                label="share of bars, %"
                names={names}
                values={counts}
                highlight={(counts.length - 1) / 2}
                fileName={`${market.symbol}-sources`}
              />
            </Panel>
            <Panel title="Largest differences" note={`${comparison.largest.length} listed`} flush>
              <div className="max-h-96 overflow-auto" tabIndex={0} role="region" aria-label="Largest differences">
                <table className="w-full border-collapse">
                  <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
                    <tr>
                      <th scope="col" className="px-3.5 py-1.5 text-left font-normal">
                        {daily ? "date" : "time, UTC"}
                      </th>
                      {[a.name, b.name, "difference"].map((head) => (
                        <th key={head} scope="col" className="px-3.5 text-right font-normal">
                          {head}
                        </th>
                      ))}
                    </tr>
                  </thead>
                  <tbody>
                    {comparison.largest.map((one) => (
                      <tr key={one.time} className="border-t border-edge/60">
                        <td className="figure-text px-3.5 py-1">
                          <Link to={`/markets/${market.symbol}?source=${a.id}&at=${dateText(one.time)}`}>
                            {daily ? dateText(one.time) : momentText(one.time)}
                          </Link>
                        </td>
                        <td className="figure-text px-3.5 text-right">{price(one.a, tick)}</td>
                        <td className="figure-text px-3.5 text-right">{price(one.b, tick)}</td>
                        <td className="figure-text px-3.5 text-right">{signed(one.b - one.a, 4)}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            </Panel>
          </div>
        </div>
      )}
    </>
  );
}
