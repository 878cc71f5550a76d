import { Link } from "react-router";
import { headOfPage, loadPortfolio } from "#server/portfolio-report";
import { decimal, momentText } from "~/design/format";
import { Panel } from "~/design/panel";
import { Head } from "~/portfolios/head";
import { weightingWords } from "#core/portfolio";
import type { Route } from "./+types/portfolio-states";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: page ? `States, ${page.head.name} · Canyon` : "Portfolio · Canyon" }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  return { head: headOfPage(page), versions: await context.services.portfolios.versions(page.id) };
}

/** Every saved state, with what changed in words and why. */
export default function StatesPage({ loaderData: { head, versions } }: Route.ComponentProps) {
  return (
    <>
      <Head head={head} />
      {versions.length === 0 ? (
        <Panel>
          <p className="text-ink-soft">
            This portfolio is from before states were kept. <Link to={`/portfolios/${head.id}/edit`}>Its next change</Link> starts the list.
          </p>
        </Panel>
      ) : (
        <ol className="flex flex-col gap-3">
          {versions.map(({ number, name, note, changes, createdAt, document }) => (
            <li key={number}>
              <Panel title={`State ${number}`} note={`${momentText(createdAt)} · ${name}`}>
                {note !== "" && <p className="mb-1 italic">{note}</p>}
                {changes.length === 0 ? (
                  <p className="text-ink-soft">
                    {document.members.map((member) => `${member.name} ${decimal(100 * member.weight, 1)} %`).join(", ")};{" "}
                    {weightingWords(document.weighting)}.
                  </p>
                ) : (
                  <ul className="list-disc pl-5">
                    {changes.map((change) => (
                      <li key={change}>{change}</li>
                    ))}
                  </ul>
                )}
              </Panel>
            </li>
          ))}
        </ol>
      )}
    </>
  );
}
