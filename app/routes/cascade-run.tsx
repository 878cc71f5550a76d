import { Link, useFetcher } from "react-router";
import { FunnelTable } from "~/cascades/funnel";
import { Button } from "~/design/button";
import { momentText } from "~/design/format";
import { PageHead, Panel } from "~/design/panel";
import { Strata } from "~/design/strata";
import { stateInk, stateWords } from "~/probes/layer-looks";
import { layerOf } from "#server/layers";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/cascade-run";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `${page?.run.document.name ?? "Cascade"}, a run · Canyon` }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const run = await context.services.cascades.getRun(Number(params.run));
  if (run === null) throw new Response("There is no such run of a cascade.", { status: 404 });
  return {
    run: {
      ...run,
      courses: run.courses.map((course) => ({
        ...course,
        probes: course.probes.map((probe) => ({
          id: probe.id,
          name: probe.name,
          layer: layerOf(probe),
          said: probe.outcome?.said ?? null,
          stoppedBy: probe.outcome?.criteria.filter(({ held }) => !held).map(({ label }) => label) ?? [],
          job: probe.job === null ? null : { state: probe.job.state, done: probe.job.done, total: probe.job.total },
        })),
      })),
    },
  };
}

export async function action({ context, params }: Route.ActionArgs) {
  await context.services.cascades.stop(Number(params.run));
  return null;
}

export default function CascadeRunPage({ loaderData: { run } }: Route.ComponentProps) {
  const fetcher = useFetcher();
  const { document, courses, funnel, done, createdAt, cascadeId } = run;
  useRefresh(!done, 700);
  const through = courses.filter(({ end }) => end === "through").length;
  return (
    <>
      <PageHead
        title={document.name}
        about={
          <span data-done={done} data-through={through}>
            begun {momentText(createdAt)} · {through} of {courses.length} came through{done ? "" : " so far"}
          </span>
        }
        actions={
          <>
            {!done && (
              <Button disabled={fetcher.state !== "idle"} onClick={() => void fetcher.submit({}, { method: "post" })}>
                Stop it here
              </Button>
            )}
            <Button look="quiet" asChild>
              <Link to={`/cascades/${cascadeId}`}>The cascade</Link>
            </Button>
          </>
        }
      />
      <Panel title="Stage by stage" note={document.goOn ? "goes on after a failure" : "stops at the first failure"} className="mb-3">
        <FunnelTable funnel={funnel} />
      </Panel>
      <Panel title="Version by version" flush>
        <table aria-label="Versions" className="w-full border-collapse">
          <tbody>
            {courses.map(({ version, layers, probes, stuck, end }) => (
              <tr key={version.id} className="border-t border-edge/60 align-top first:border-0" data-version={version.id} data-end={end}>
                <td className="px-3.5 py-2">
                  <Strata layers={layers} width={20} height={44} />
                </td>
                <th scope="row" className="px-2 py-2 text-left whitespace-nowrap">
                  <Link to={`/strategies/${version.strategyId}/evidence?v=${version.number}`} className="no-underline hover:underline">
                    {version.name} v{version.number}
                  </Link>
                  <span
                    className={`block font-normal ${end === "through" ? "text-moss-ink" : end === "stopped" ? "text-clay" : "text-ochre-ink"}`}
                  >
                    {end === "through" ? "came through" : end}
                  </span>
                </th>
                <td className="w-full px-3.5 py-2">
                  <ol>
                    {probes.map((probe) => (
                      <li key={probe.id}>
                        <Link to={`/strategies/${version.strategyId}/evidence?v=${version.number}&probe=${probe.id}`}>{probe.name}</Link>{" "}
                        <span className={stateInk(probe.layer)}>{stateWords(probe.layer)}</span>
                        {probe.said !== null ? (
                          <span className="text-ink-soft">: {probe.said}</span>
                        ) : (
                          probe.job !== null && (
                            <span className="text-ink-soft">
                              : {probe.job.state}, {probe.job.done} of {probe.job.total}
                            </span>
                          )
                        )}
                        {probe.stoppedBy.length > 0 && <span className="text-clay"> ({probe.stoppedBy.join(", ")})</span>}
                      </li>
                    ))}
                    {stuck !== null && (
                      <li className="text-clay">
                        Stage {stuck.stage + 1} could not be asked: {stuck.message}
                      </li>
                    )}
                  </ol>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Panel>
    </>
  );
}
