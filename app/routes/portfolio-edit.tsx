import { data, redirect } from "react-router";
import { portfolioCandidates } from "#server/candidates";
import { isRefused } from "#server/problem";
import { PageHead } from "~/design/panel";
import { Builder } from "~/portfolios/builder";
import { stateOf, withMember, withoutMember } from "~/portfolios/builder-state";
import type { Route } from "./+types/portfolio-edit";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Change ${page.portfolio.name} · Canyon` : "Portfolio · Canyon" },
];
export { handle } from "./portfolio-new";

/** `?take=12&leave=Name` starts with a version taken in and a member left out, as the pages of a portfolio offer it. */
export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { services } = context;
  const portfolio = await services.portfolios.get(Number(params.id));
  if (portfolio === null) throw new Response("There is no such portfolio.", { status: 404 });
  const query = new URL(request.url).searchParams;
  const take = query.has("take") ? Number(query.get("take")) : null;
  const held = portfolio.document.members.map(({ versionId }) => versionId);
  const [candidates, markets] = await Promise.all([
    portfolioCandidates(services, take === null ? held : [...held, take]),
    services.markets.list(),
  ]);
  return { portfolio, candidates, markets, take, leave: query.get("leave") };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const id = Number(params.id);
  try {
    const document = JSON.parse(String(form.get("document")));
    await context.services.portfolios.save(
      id,
      Number(form.get("revision")),
      String(form.get("name")),
      document,
      String(form.get("note") ?? ""),
    );
    return redirect(`/portfolios/${id}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function EditPortfolioPage({ loaderData: { portfolio, candidates, markets, take, leave } }: Route.ComponentProps) {
  const symbols = markets.map(({ symbol }) => symbol);
  let start = stateOf(portfolio.name, portfolio.document);
  const gone = start.members.findIndex(({ name }) => name === leave);
  if (gone >= 0) start = withoutMember(start, gone);
  const candidate = candidates.find(({ versionId }) => versionId === take);
  if (candidate !== undefined) start = withMember(start, candidate, symbols);
  return (
    <>
      <PageHead
        title={`Change ${portfolio.name}`}
        about={`state ${portfolio.revision}; saving makes the next one, and the earlier ones stay`}
      />
      <Builder
        key={`${take} ${leave}`}
        start={start}
        candidates={candidates}
        markets={markets}
        revision={portfolio.revision}
        savedCosts={portfolio.document.settings.costs}
      />
    </>
  );
}
