import { data, Link } from "react-router";
import { isRefused } from "#server/problem";
import { Empty, PageHead } from "~/design/panel";
import { RunsTable } from "~/runs/runs-table";
import type { Route } from "./+types/runs";

export const meta: Route.MetaFunction = () => [{ title: "Runs · Canyon" }];
export const handle = { keys: [{ keys: "C", what: "set the marked runs beside each other" }] };

export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context }: Route.LoaderArgs) {
  return { runs: await context.services.runs.all() };
}

/** Writes down what a trader notes of a run; every list of runs sends it here. */
export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const text = (key: string) => (form.has(key) ? String(form.get(key)) : undefined);
  const pinned = text("pinned");
  try {
    await context.services.runs.mark(Number(form.get("id")), {
      note: text("note"),
      tags: text("tags")?.split(","),
      pinned: pinned === undefined ? undefined : pinned === "yes",
    });
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

/** All stored runs. */
export default function RunsPage({ loaderData: { runs } }: Route.ComponentProps) {
  return (
    <>
      <PageHead title="Runs" about="Every stored backtest, of all strategies" />
      {runs.length === 0 ? (
        <Empty
          title="No run stored yet"
          action={
            <Link to="/library" className="quiet-link">
              To the strategies
            </Link>
          }
        >
          “Save run” beside a strategy’s rules stores one, with a fingerprint by which it can be computed again to the last bit.
        </Empty>
      ) : (
        <RunsTable runs={runs} several />
      )}
    </>
  );
}
