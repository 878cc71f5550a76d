import { Link } from "react-router";
import type { Strategy } from "#core/documents";
import { strategyPage } from "#server/strategy-page";
import { momentText } from "~/design/format";
import { Panel } from "~/design/panel";
import { StrategyHead } from "~/strategies/head";
import { differences } from "~/strategies/differences";
import type { Route } from "./+types/strategy-versions";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `Versions of ${page?.version.strategyName ?? "a strategy"} · Canyon` },
];

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await strategyPage(context.services, Number(params.id), null);
  if (page === null) throw new Response("There is no such strategy.", { status: 404 });
  return page;
}

export default function StrategyVersionsPage({ loaderData: { version, versions, layers, counts } }: Route.ComponentProps) {
  const before = (number: number): Strategy | null => versions.find((v) => v.number === number - 1)?.strategy ?? null;
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`${versions.length} ${versions.length === 1 ? "version" : "versions"}, newest first`}
        layers={layers}
        counts={counts}
      />
      <ol className="flex flex-col gap-2">
        {[...versions].reverse().map((v) => {
          const earlier = before(v.number);
          const changes = earlier === null ? [] : differences(earlier, v.strategy);
          return (
            <li key={v.id}>
              <Panel
                title={
                  <Link to={`/strategies/${v.strategyId}?v=${v.number}`} className="no-underline hover:underline">
                    Version {v.number}
                  </Link>
                }
                note={momentText(v.createdAt)}
                aside={<span className="figure-text text-xs">{v.hash.slice(0, 12)}</span>}
              >
                {earlier === null ? (
                  <p className="text-ink-soft">The first version.</p>
                ) : changes.length === 0 ? (
                  <p className="text-ink-soft">The same as the one before.</p>
                ) : (
                  <ul className="list-disc pl-5">
                    {changes.map((change) => (
                      <li key={change.what}>
                        {change.what}: <span className="figure-text text-ink-soft">{change.before}</span> →{" "}
                        <span className="figure-text">{change.now}</span>
                      </li>
                    ))}
                  </ul>
                )}
              </Panel>
            </li>
          );
        })}
      </ol>
    </>
  );
}
