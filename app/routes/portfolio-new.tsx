import { data, redirect } from "react-router";
import { portfolioCandidates } from "#server/candidates";
import { isRefused } from "#server/problem";
import { PageHead } from "~/design/panel";
import { Builder } from "~/portfolios/builder";
import type { Route } from "./+types/portfolio-new";

export const meta: Route.MetaFunction = () => [{ title: "New portfolio · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { candidates: await portfolioCandidates(context.services), markets: await context.services.markets.list() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  try {
    const id = await context.services.portfolios.create(String(form.get("name")), JSON.parse(String(form.get("document"))));
    return redirect(`/portfolios/${id}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function NewPortfolioPage({ loaderData: { candidates, markets } }: Route.ComponentProps) {
  return (
    <>
      <PageHead title="New portfolio" about="Versions with weights on one account, simulated together." />
      <Builder
        start={{ name: "", members: [], capital: "1000000", leverage: "1", from: "", to: "" }}
        candidates={candidates}
        markets={markets}
        revision={0}
        saveLabel="Save and compute"
      />
    </>
  );
}
