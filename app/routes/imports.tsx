import { Link } from "react-router";
import { Button } from "~/design/button";
import { momentText } from "~/design/format";
import { Empty, PageHead, Panel } from "~/design/panel";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/imports";

export const meta: Route.MetaFunction = () => [{ title: "Imports · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { imports: await context.services.imports.recent() };
}

export default function ImportsPage({ loaderData: { imports } }: Route.ComponentProps) {
  useRefresh(
    imports.some((one) => one.state === "reading"),
    1000,
  );
  return (
    <>
      <PageHead
        title="Imports"
        about="Files on their way into sources, and revised bars that wait to be looked at."
        actions={
          <Button asChild look="primary">
            <Link to="/markets/import">Import bars…</Link>
          </Button>
        }
      />
      {imports.length === 0 ? (
        <Empty title="Nothing was imported yet">
          A file of bars is previewed, read beside your other work, and taken as a whole or not at all.
        </Empty>
      ) : (
        <Panel flush>
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["when, UTC", "file", "into", "how it stands"].map((head) => (
                  <th key={head} scope="col" className="px-3.5 py-2 text-left font-normal">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {imports.map((one) => (
                <tr key={one.id} className="border-t border-edge">
                  <td className="figure-text px-3.5 py-1.5">{momentText(one.createdAt)}</td>
                  <td className="px-3.5">
                    <Link to={`/imports/${one.id}`}>{one.name}</Link>
                  </td>
                  <td className="px-3.5">
                    {one.target.create?.symbol ?? one.target.market}, {one.target.source}
                  </td>
                  <td className="px-3.5">
                    {one.state === "reading"
                      ? `being read, ${Math.floor((100 * one.job.done) / Math.max(1, one.job.total))} %`
                      : one.state === "ready"
                        ? one.report?.fatal
                          ? "can't be read"
                          : "waits for you"
                        : one.state}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Panel>
      )}
    </>
  );
}
