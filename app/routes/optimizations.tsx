import { Link } from "react-router";
import { Button } from "~/design/button";
import { dateText } from "~/design/format";
import { Empty, PageHead, Panel } from "~/design/panel";
import { OptimizationList } from "~/optimizations/list";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/optimizations";

export const meta: Route.MetaFunction = () => [{ title: "Optimizations · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  const { optimizations, plans, strategies } = context.services;
  const [all, stored, versions] = await Promise.all([optimizations.list(), plans.list(), strategies.newest()]);
  const names = new Map(versions.map((version) => [version.strategyId, version.strategyName]));
  return {
    optimizations: all,
    plans: stored
      .filter((plan) => names.has(plan.strategyId))
      .map(({ id, name, strategyId, updatedAt }) => ({ id, name, strategy: names.get(strategyId)!, updatedAt })),
  };
}

export default function OptimizationsPage({ loaderData: { optimizations, plans } }: Route.ComponentProps) {
  useRefresh(
    optimizations.some((view) => view.job.state === "running" || view.job.state === "queued"),
    1000,
  );
  const start = (
    <Button asChild look="primary">
      <Link to="/optimizations/new">New optimization</Link>
    </Button>
  );
  return (
    <>
      <PageHead
        title="Optimizations"
        about={
          <>
            {optimizations.length} so far, newest first ·{" "}
            <Link className="quiet-link" to="/jobs">
              what runs and what waits
            </Link>
          </>
        }
        actions={start}
      />
      {plans.length > 0 && (
        <Panel className="mb-3" title="Stored plans" note="set-ups to be run again, on other dates perhaps">
          <ul className="flex flex-wrap gap-x-6 gap-y-1">
            {plans.map((plan) => (
              <li key={plan.id}>
                <Link className="quiet-link" to={`/optimizations/new?plan=${plan.id}`}>
                  {plan.name}
                </Link>{" "}
                <span className="text-sm text-ink-soft">
                  {plan.strategy}, {dateText(plan.updatedAt)}
                </span>
              </li>
            ))}
          </ul>
        </Panel>
      )}
      {optimizations.length === 0 ? (
        <Empty title="Nothing optimized yet" action={start}>
          Choose which parameters vary and over what range, an objective, and the stretch of data that may be seen. The work goes on when
          the page is closed, and after the server was stopped.
        </Empty>
      ) : (
        <OptimizationList optimizations={optimizations} />
      )}
    </>
  );
}
