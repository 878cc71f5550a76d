import { useMemo, useState } from "react";
import { data, Form, useFetcher, useNavigation } from "react-router";
import { isRefused } from "#server/problem";
import { SeriesChart } from "~/charts/series-chart";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { dateText, decimal } from "~/design/format";
import { Empty, Panel, Problems } from "~/design/panel";
import { saveCsv } from "~/design/save";
import { MarketHead } from "~/markets/head";
import type { Route } from "./+types/market-series";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol}, extra series · Canyon` }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { markets, series } = context.services;
  const market = await markets.bySymbol(params.symbol);
  if (market === null) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  return { market, series: await series.ofMarket(market.symbol) };
}

const MOST = 20 * 1024 * 1024;

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { series } = context.services;
  try {
    if (form.get("intent") === "remove") {
      await series.remove(Number(form.get("id")));
      return { problems: [], counts: null };
    }
    const file = form.get("file");
    if (!(file instanceof File) || file.size === 0)
      return data({ problems: [{ path: "file", message: "choose a file of dates and values first" }], counts: null }, { status: 400 });
    if (file.size > MOST)
      return data({ problems: [{ path: "file", message: `${file.name} is larger than 20 MB` }], counts: null }, { status: 413 });
    return { problems: [], counts: await series.importCsv(String(form.get("name")).trim(), await file.text(), params.symbol) };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems, counts: null }, { status: error.status });
    throw error;
  }
}

export default function SeriesPage({ loaderData: { market, series }, actionData }: Route.ComponentProps) {
  const navigation = useNavigation();
  const fetcher = useFetcher<typeof action>();
  const counts = actionData?.counts;
  return (
    <>
      <MarketHead market={market} />
      <div className="grid grid-cols-[1fr_320px] gap-3">
        <div className="flex min-w-0 flex-col gap-3">
          {series.length === 0 ? (
            <Empty title="No extra series yet">
              An extra series holds dated values beside the prices: an order backlog, a weather index, a rating. Each value counts from its
              date on.
            </Empty>
          ) : (
            series.map((one) => (
              <Panel
                key={one.id}
                title={one.name}
                note={`${decimal(one.points.time.length, 0)} values from ${dateText(one.points.time[0])} to ${dateText(one.points.time[one.points.time.length - 1])}, by ${one.origin}`}
                aside={
                  <>
                    <button
                      type="button"
                      className="quiet-link mr-3"
                      onClick={() =>
                        saveCsv(
                          `${market.symbol}-${one.name}`,
                          ["date", "value"],
                          one.points.time.map((time, i) => [dateText(time), one.points.value[i]]),
                        )
                      }
                    >
                      save as CSV
                    </button>
                    <button
                      type="button"
                      className="quiet-link"
                      onClick={() => void fetcher.submit({ intent: "remove", id: String(one.id) }, { method: "post" })}
                    >
                      remove
                    </button>
                  </>
                }
              >
                <SeriesChart name={one.name} points={one.points} />
              </Panel>
            ))
          )}
        </div>
        <Panel title="Import values" className="self-start">
          <Form method="post" encType="multipart/form-data" className="flex flex-col gap-2.5">
            <Problems problems={actionData?.problems ?? []} title="Nothing was imported" />
            {counts && (
              <p role="status" className="border-l-4 border-moss px-3">
                {Object.entries(counts)
                  .map(([symbol, count]) => `${count} values for ${symbol}`)
                  .join(", ")}
              </p>
            )}
            <Field label="Name, as rules will call it" name="name" defaultValue="" required />
            <SeriesFile />
            <p className="text-sm text-ink-soft">
              Columns <code>date,value</code>, or <code>date</code> and one column for each symbol. Values of the same date are replaced.
            </p>
            <Button type="submit" look="primary" disabled={navigation.state !== "idle"}>
              Import
            </Button>
          </Form>
        </Panel>
      </div>
    </>
  );
}

function SeriesFile() {
  const [name, setName] = useState("");
  const id = useMemo(() => "series-file", []);
  return (
    <div>
      <label htmlFor={id} className="text-sm text-ink-soft">
        CSV file {name && `· ${name}`}
      </label>
      <input
        id={id}
        type="file"
        name="file"
        accept=".csv,.txt,text/csv"
        onChange={(event) => setName(event.target.files?.[0]?.name ?? "")}
        className="mt-0.5 block w-full rounded-[4px] border border-edge bg-sheet p-1 file:mr-3 file:rounded-[3px] file:border file:border-ink file:bg-sheet file:px-2 file:py-0.5 file:text-ink"
      />
    </div>
  );
}
