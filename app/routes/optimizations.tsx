import { Link } from "react-router";
import { Button } from "~/design/button";
import { Empty, PageHead } from "~/design/panel";
import { OptimizationList } from "~/optimizations/list";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/optimizations";

export const meta: Route.MetaFunction = () => [{ title: "Optimizations · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { optimizations: await context.services.optimizations.list() };
}

export default function OptimizationsPage({ loaderData: { optimizations } }: Route.ComponentProps) {
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
      <PageHead title="Optimizations" about={`${optimizations.length} so far, newest first`} actions={start} />
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
