import { data, redirect, Form, Link } from "react-router";
import { openQuestions } from "#server/importing/questions";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { dateText, decimal, duration, momentText } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { saveCsv } from "~/design/save";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/import";

export const meta: Route.MetaFunction = () => [{ title: "Import · Canyon" }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const view = await context.services.imports.get(Number(params.id));
  if (view === null) throw new Response("There is no such import.", { status: 404 });
  const { markets, seals } = context.services;
  const market = view.target.market === null ? null : await markets.bySymbol(view.target.market);
  const from = market === null ? undefined : (await seals.all()).get(market.id);
  const seal = from === undefined ? null : Date.parse(from);
  const { report } = view;
  if (report === null || seal === null) return { view, seal };
  // what the file holds behind the seal is taken along, and shown to nobody
  return { view: { ...view, report: { ...report, changes: report.changes.filter(({ time }) => time < seal) } }, seal };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { imports } = context.services;
  const id = Number(params.id);
  try {
    if (form.get("intent") === "drop") {
      await imports.drop(id);
      return redirect("/imports");
    }
    const symbol = await imports.take(id, form.get("intent") === "newOnly" ? "newOnly" : "all");
    return redirect(`/markets/${symbol}/sources`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function ImportPage({ loaderData: { view, seal }, actionData }: Route.ComponentProps) {
  useRefresh(view.state === "reading", 500);
  const { report, target, job } = view;
  const symbol = target.create?.symbol ?? target.market ?? "";
  const questions = report === null ? [] : openQuestions(target, report);
  const share = (100 * job.done) / Math.max(1, job.total);
  const daily = report !== null && ["1d", "1w", "1M"].includes(report.timeframe);
  const stamp = (time: number) => (daily ? dateText(time) : momentText(time));
  const failed = job.state === "failed" || (job.state === "cancelled" && view.state !== "taken");
  return (
    <>
      <PageHead title={view.name} about={`into ${symbol}, ${target.source}, ${target.format.timeframe} bars`} />
      <Problems problems={actionData?.problems ?? []} title="That could not be done" />
      {view.state === "reading" && (
        <Panel title="Being read" note="the page can be closed meanwhile">
          <span
            role="progressbar"
            aria-label="Reading the file"
            aria-valuenow={Math.floor(share)}
            aria-valuemin={0}
            aria-valuemax={100}
            className="block h-2 bg-edge"
          >
            <span className="block h-2 bg-ochre" style={{ width: `${share}%` }} />
          </span>
          <p className="mt-2 flex justify-between text-ink-soft">
            <span>
              {decimal(job.done / 1024, 0)} of {decimal(job.total / 1024, 0)} kB
            </span>
            <span>{job.left === null ? "" : `${duration(job.left)} left`}</span>
          </p>
          <Form method="post" className="mt-2">
            <Button type="submit" name="intent" value="drop">
              Cancel
            </Button>
          </Form>
        </Panel>
      )}
      {failed && (
        <Problems
          problems={[{ path: "", message: job.error ?? "the import was cancelled; nothing of it counts" }]}
          title="Nothing was imported"
        />
      )}
      {report !== null && (
        <div className="grid grid-cols-[320px_1fr] items-start gap-3">
          <div className="flex flex-col gap-3">
            <Panel title="What it holds">
              <dl className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-1">
                {(
                  [
                    ["bars", decimal(report.count, 0)],
                    ["first", report.first === null ? "–" : stamp(report.first)],
                    [
                      "last",
                      report.last === null
                        ? "–"
                        : seal !== null && report.last >= seal
                          ? `${dateText(seal)}, sealed from there`
                          : stamp(report.last),
                    ],
                    ["new", decimal(report.added, 0)],
                    ["changed", decimal(report.changed, 0)],
                    ["as they were", decimal(report.same, 0)],
                    ["lines rejected", decimal(report.rejected, 0)],
                  ] as [string, string][]
                ).map(([name, value]) => (
                  <div key={name} className="contents">
                    <dt className="text-ink-soft">{name}</dt>
                    <dd className="figure-text text-right">{value}</dd>
                  </div>
                ))}
              </dl>
            </Panel>
            {view.state === "taken" ? (
              <p className="border-l-4 border-moss px-3 py-1" role="status">
                The bars count now. <Link to={`/markets/${symbol}/sources`}>To the sources of {symbol}</Link>
              </p>
            ) : view.state === "dropped" ? (
              <p className="border-l-4 border-edge px-3 py-1" role="status">
                The file was dropped; nothing of it counts.
              </p>
            ) : report.fatal !== null ? (
              <>
                <Problems problems={[{ path: "", message: report.fatal }]} title="Nothing was imported" />
                <Form method="post">
                  <Button type="submit" name="intent" value="drop">
                    Drop the file
                  </Button>
                </Form>
              </>
            ) : (
              <Panel title="Nothing counts yet">
                <ul className="list-disc pl-5">
                  {questions.includes("broken") && (
                    <li>
                      {decimal(report.rejected, 0)} {report.rejected === 1 ? "line is" : "lines are"} broken and would be left out.
                    </li>
                  )}
                  {questions.includes("changed") && (
                    <li>
                      {decimal(report.changed, 0)} {report.changed === 1 ? "bar differs" : "bars differ"} from what the source holds.
                    </li>
                  )}
                </ul>
                <Form method="post" className="mt-2 flex flex-wrap gap-2">
                  <Button type="submit" name="intent" value="all" look="primary" disabled={report.all === null}>
                    {report.changed > 0 ? "Take new and changed bars" : "Take the bars"}
                  </Button>
                  {report.changed > 0 && (
                    <Button type="submit" name="intent" value="newOnly">
                      {report.added > 0 ? "Take only the new ones" : "Keep the bars as they are"}
                    </Button>
                  )}
                  <Button type="submit" name="intent" value="drop" look="quiet">
                    Drop the file
                  </Button>
                </Form>
              </Panel>
            )}
          </div>
          <div className="flex min-w-0 flex-col gap-3">
            {report.changes.length > 0 && (
              <Panel title="Changed bars" note={`${report.changes.length} of ${decimal(report.changed, 0)} shown, before and after`} flush>
                <div className="max-h-[420px] overflow-auto" tabIndex={0} role="region" aria-label="Changed bars">
                  <table className="w-full border-collapse">
                    <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
                      <tr>
                        <th scope="col" className="px-3.5 py-1.5 text-left font-normal">
                          {daily ? "date" : "time, UTC"}
                        </th>
                        {["open", "high", "low", "close", "volume"].map((head) => (
                          <th key={head} scope="col" className="px-3.5 text-right font-normal">
                            {head}
                          </th>
                        ))}
                      </tr>
                    </thead>
                    <tbody>
                      {report.changes.map(({ time, before, after }) => (
                        <tr key={time} className="border-t border-edge/60">
                          <td className="figure-text px-3.5 py-1">{stamp(time)}</td>
                          {(["open", "high", "low", "close", "volume"] as const).map((key) => (
                            <td key={key} className="figure-text px-3.5 text-right">
                              {before[key] === after[key] ? (
                                <span className="text-ink-soft">{after[key]}</span>
                              ) : (
                                <>
                                  <s className="text-ink-soft">{before[key]}</s> <b>{after[key]}</b>
                                </>
                              )}
                            </td>
                          ))}
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </div>
              </Panel>
            )}
            {report.problems.length > 0 && (
              <Panel
                title="Rejected lines"
                note={`${decimal(report.problems.length, 0)} of ${decimal(report.rejected, 0)} listed`}
                aside={
                  <button
                    type="button"
                    className="quiet-link"
                    onClick={() =>
                      saveCsv(
                        `${view.name}-rejected`,
                        ["line", "reason"],
                        report.problems.map((one) => [one.line, one.message]),
                      )
                    }
                  >
                    save as CSV
                  </button>
                }
                flush
              >
                <ol className="max-h-[360px] overflow-auto" tabIndex={0} aria-label="Rejected lines">
                  {report.problems.slice(0, 300).map((problem) => (
                    <li key={problem.line} className="grid grid-cols-[6rem_1fr] border-t border-edge/60 px-3.5 py-1">
                      <span className="text-ink-soft">line {problem.line}</span>
                      <span>{problem.message}</span>
                    </li>
                  ))}
                </ol>
              </Panel>
            )}
          </div>
        </div>
      )}
    </>
  );
}
