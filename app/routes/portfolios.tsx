import { useEffect } from "react";
import { Link, useFetcher } from "react-router";
import { weightingWords } from "#core/portfolio";
import { Button } from "~/design/button";
import { dateText, decimal } from "~/design/format";
import { Empty, PageHead } from "~/design/panel";
import { useNotice } from "~/design/toast";
import type { Route } from "./+types/portfolios";

export const meta: Route.MetaFunction = () => [{ title: "Portfolios · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { portfolios: await context.services.portfolios.list() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const id = Number(form.get("id"));
  if (form.get("intent") === "restore") {
    await context.services.portfolios.restore(id);
    return { removed: null };
  }
  await context.services.portfolios.remove(id);
  return { removed: { id, name: String(form.get("name")) } };
}

export default function PortfoliosPage({ loaderData: { portfolios } }: Route.ComponentProps) {
  const fetcher = useFetcher<typeof action>();
  const notice = useNotice();
  const removed = fetcher.data?.removed;
  useEffect(() => {
    if (removed)
      notice({
        text: `${removed.name} was taken out.`,
        action: { label: "Undo", run: () => void fetcher.submit({ intent: "restore", id: String(removed.id) }, { method: "post" }) },
      });
    // the fetcher is a new object at every render; the removal is what counts
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [removed?.id, removed?.name, notice]);
  const start = (
    <Button asChild look="primary">
      <Link to="/portfolios/new">New portfolio</Link>
    </Button>
  );
  return (
    <>
      <PageHead
        title="Portfolios"
        about={`${portfolios.length} so far`}
        actions={
          <>
            <Button asChild>
              <Link to="/portfolios/choose">Choose from the library</Link>
            </Button>
            {start}
          </>
        }
      />
      {portfolios.length === 0 ? (
        <Empty title="No portfolio yet" action={start}>
          A portfolio puts versions with weights on one account and simulates them together, with common margin: what each adds, in profit
          and in drawdown.
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["portfolio", "members", "weights", "capital", "changed", ""].map((head) => (
                  <th key={head} scope="col" className={`px-3.5 py-2 font-normal ${head === "capital" ? "text-right" : "text-left"}`}>
                    {head || <span className="sr-only">actions</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {portfolios.map((portfolio) => (
                <tr key={portfolio.id} className="border-t border-edge hover:bg-shade/50">
                  <th scope="row" className="px-3.5 py-2 text-left">
                    <Link to={`/portfolios/${portfolio.id}`} className="no-underline hover:underline">
                      {portfolio.name}
                    </Link>
                  </th>
                  <td className="px-3.5">
                    {portfolio.document.members.map((member) => `${member.name} ${decimal(member.weight * 100, 0)} %`).join(", ")}
                  </td>
                  <td className="px-3.5 text-sm text-ink-soft">{weightingWords(portfolio.document.weighting)}</td>
                  <td className="figure-text px-3.5 text-right">{decimal(portfolio.document.settings.capital, 0)}</td>
                  <td className="figure-text px-3.5">{dateText(portfolio.updatedAt)}</td>
                  <td className="px-3.5 text-right">
                    <button
                      type="button"
                      className="quiet-link text-sm text-ink-soft"
                      aria-label={`take out ${portfolio.name}`}
                      onClick={() => void fetcher.submit({ id: String(portfolio.id), name: portfolio.name }, { method: "post" })}
                    >
                      take out
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
