import { data, redirect } from "react-router";
import { portfolioCandidates } from "#server/candidates";
import { isRefused } from "#server/problem";
import { PageHead } from "~/design/panel";
import { Builder } from "~/portfolios/builder";
import { EMPTY_STATE, withMember } from "~/portfolios/builder-state";
import type { Route } from "./+types/portfolio-new";

export const meta: Route.MetaFunction = () => [{ title: "New portfolio · Canyon" }];
export const handle = {
  keys: [
    { keys: "Ctrl Z", what: "undo the last change" },
    { keys: "Space, arrows, Space", what: "drag a version by key" },
    { keys: "← →", what: "move the weight that has the focus" },
  ],
};

/** `?take=12,15` starts with these versions. */
export async function loader({ context, request }: Route.LoaderArgs) {
  const take = (new URL(request.url).searchParams.get("take") ?? "").split(",").filter((x) => x !== "").map(Number); // prettier-ignore
  const candidates = await portfolioCandidates(context.services, take);
  return { candidates, markets: await context.services.markets.list(), take };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  try {
    const document = JSON.parse(String(form.get("document")));
    const id = await context.services.portfolios.create(String(form.get("name")), document, String(form.get("note") ?? ""));
    return redirect(`/portfolios/${id}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function NewPortfolioPage({ loaderData: { candidates, markets, take } }: Route.ComponentProps) {
  const symbols = markets.map(({ symbol }) => symbol);
  const start = take.reduce((state, id) => {
    const candidate = candidates.find(({ versionId }) => versionId === id);
    return candidate === undefined ? state : withMember(state, candidate, symbols);
  }, EMPTY_STATE);
  return (
    <>
      <PageHead title="New portfolio" about="Versions with weights on one account, simulated together." />
      <Builder key={take.join()} start={start} candidates={candidates} markets={markets} revision={0} savedCosts={null} />
    </>
  );
}
