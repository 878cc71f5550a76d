import { Link } from "react-router";
import { strategyStatement } from "#core/wording";
import { strategyPage } from "#server/strategy-page";
import { Button } from "~/design/button";
import { momentText } from "~/design/format";
import type { Route } from "./+types/strategy-statement";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `${page?.version.strategyName ?? "Strategy"}, in words · Canyon` }];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const search = new URL(request.url).searchParams;
  const page = await strategyPage(context.services, Number(params.id), search.has("v") ? Number(search.get("v")) : null);
  if (page === null) throw new Response("There is no such strategy or version.", { status: 404 });
  return { version: page.version };
}

/** The whole strategy in plain English, on one sheet to print and to review. */
export default function StatementPage({ loaderData: { version } }: Route.ComponentProps) {
  return (
    <article className="mx-auto max-w-[72ch] rounded-[4px] border border-edge bg-sheet px-10 py-8 print:border-0 print:px-0">
      <div className="float-right flex gap-2 print:hidden">
        <Button look="quiet" small onClick={() => window.print()}>
          Print
        </Button>
        <Button look="quiet" small asChild>
          <Link to={`/strategies/${version.strategyId}?v=${version.number}`}>Back to the rules</Link>
        </Button>
      </div>
      <h1 className="text-2xl">{version.strategyName}</h1>
      <p className="mb-4 text-ink-soft">
        version {version.number}, {momentText(version.createdAt)} · <span className="figure-text text-xs">{version.hash.slice(0, 16)}</span>
        {version.note && <> · {version.note}</>}
      </p>
      {strategyStatement(version.strategy).map(({ heading, lines }) => (
        <section key={heading} className="mb-3">
          <h2 className="text-lg">{heading}</h2>
          {lines.length === 1 ? (
            <p>{lines[0]}</p>
          ) : (
            <ul className="list-disc pl-5">
              {lines.map((line, i) => (
                <li key={i}>{line}</li>
              ))}
            </ul>
          )}
        </section>
      ))}
    </article>
  );
}
