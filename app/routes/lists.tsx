import { useEffect } from "react";
import { data, Form, Link, redirect, useFetcher, useSearchParams } from "react-router";
import { symbolsOf, type ListRule } from "#server/list-symbols";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { PageHead, Panel, Problems } from "~/design/panel";
import { saveCsv } from "~/design/save";
import { useNotice } from "~/design/toast";
import type { Route } from "./+types/lists";

export const meta: Route.MetaFunction = () => [{ title: "Lists of markets · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  const { lists, markets } = context.services;
  return { lists: await lists.list(), markets: (await markets.list()).map(({ symbol, name, sector }) => ({ symbol, name, sector })) };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { lists } = context.services;
  const id = Number(form.get("id"));
  try {
    if (form.get("intent") === "restore") {
      await lists.restore(id);
      return { problems: [], removed: null };
    }
    if (form.get("intent") === "remove") {
      const list = await lists.get(id);
      await lists.remove(id);
      return { problems: [], removed: list && { id, name: list.name } };
    }
    const file = form.get("file");
    const typed = String(form.get("symbols") ?? "");
    const rule: ListRule = {
      symbols: symbolsOf(file instanceof File && file.size > 0 ? `${typed}\n${await file.text()}` : typed),
      plus: form.getAll("plus").map(Number),
      minus: form.getAll("minus").map(Number),
    };
    const [name, kind] = [String(form.get("name") ?? ""), String(form.get("kind") ?? "")];
    if (id > 0) await lists.update(id, name, kind, rule);
    const at = id > 0 ? id : await lists.create(name, kind, rule);
    return redirect(`/lists?id=${at}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems, removed: null }, { status: error.status });
    throw error;
  }
}

export default function ListsPage({ loaderData: { lists, markets }, actionData }: Route.ComponentProps) {
  const [query] = useSearchParams();
  const fetcher = useFetcher<typeof action>();
  const notice = useNotice();
  const wanted = query.get("id");
  const chosen = wanted === "new" ? null : (lists.find((list) => String(list.id) === wanted) ?? lists[0] ?? null);
  const removed = fetcher.data?.removed;
  useEffect(() => {
    if (removed)
      notice({
        text: `“${removed.name}” was removed.`,
        action: { label: "Undo", run: () => void fetcher.submit({ intent: "restore", id: String(removed.id) }, { method: "post" }) },
      });
    // the fetcher is a new object at every render; the removal is what counts
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [removed?.id, removed?.name, notice]);
  const problems = [...(actionData?.problems ?? []), ...(fetcher.data?.problems ?? [])];
  const named = new Map(markets.map((market) => [market.symbol, market.name]));
  return (
    <>
      <PageHead
        title="Lists of markets"
        about="Markets to watch, and markets to leave out. A list can be made of others: these minus those."
        actions={
          <Button asChild>
            <Link to="/lists?id=new">New list</Link>
          </Button>
        }
      />
      <div className="grid grid-cols-[260px_1fr_280px] items-start gap-3">
        <Panel title="All" flush>
          <ul>
            {lists.map((list) => (
              <li key={list.id} className="border-t border-edge first:border-t-0">
                <Link
                  to={`/lists?id=${list.id}`}
                  aria-current={list === chosen ? "page" : undefined}
                  className="block px-3.5 py-2 no-underline hover:bg-shade aria-[current=page]:bg-shade"
                >
                  <span className="font-semibold">{list.name}</span>
                  <span className="block text-sm text-ink-soft">
                    {list.kind === "watch" ? "to watch" : "to leave out"} · {list.symbols.length}
                  </span>
                </Link>
              </li>
            ))}
            {lists.length === 0 && <li className="px-3.5 py-3 text-ink-soft">No list yet; make one beside this.</li>}
          </ul>
        </Panel>
        <Panel title={chosen === null ? "A new list" : chosen.name}>
          <Form method="post" encType="multipart/form-data" key={chosen?.id ?? "new"} className="flex flex-col gap-3">
            <input type="hidden" name="id" value={chosen?.id ?? 0} />
            <Problems problems={problems} title="Nothing was saved" />
            <div className="grid grid-cols-2 gap-3">
              <Field label="Name" name="name" defaultValue={chosen?.name ?? ""} />
              <Select
                label="For"
                name="kind"
                value={chosen?.kind ?? "watch"}
                choices={[
                  { value: "watch", label: "watching" },
                  { value: "exclude", label: "leaving out" },
                ]}
              />
            </div>
            <label className="text-sm text-ink-soft">
              Symbols, parted by blanks, commas or lines
              <textarea
                name="symbols"
                rows={6}
                defaultValue={(chosen?.rule.symbols ?? []).join(" ")}
                className="figure-text mt-0.5 block w-full rounded-[4px] border border-edge bg-sheet px-2 py-1 text-ink"
              />
            </label>
            <label className="text-sm text-ink-soft">
              and those of a file, one symbol a line
              <input type="file" name="file" accept=".csv,.txt" className="mt-0.5 block" />
            </label>
            <div className="grid grid-cols-2 gap-3">
              {(["plus", "minus"] as const).map((which) => (
                <fieldset key={which}>
                  <legend className="text-sm text-ink-soft">{which === "plus" ? "and the markets of" : "without the markets of"}</legend>
                  {lists
                    .filter((list) => list !== chosen)
                    .map((list) => (
                      <label key={list.id} className="flex items-center gap-1.5">
                        <input
                          type="checkbox"
                          name={which}
                          value={list.id}
                          defaultChecked={chosen?.rule[which].includes(list.id) ?? false}
                        />
                        {list.name}
                      </label>
                    ))}
                </fieldset>
              ))}
            </div>
            <div className="flex gap-2">
              <Button type="submit" look="primary">
                {chosen === null ? "Make it" : "Save"}
              </Button>
              {chosen !== null && (
                <Button onClick={() => void fetcher.submit({ intent: "remove", id: String(chosen.id) }, { method: "post" })}>Remove</Button>
              )}
            </div>
          </Form>
        </Panel>
        <Panel
          title="It comes to"
          note={chosen === null ? "" : `${chosen.symbols.length} markets`}
          aside={
            chosen !== null && (
              <button
                type="button"
                className="quiet-link"
                onClick={() =>
                  saveCsv(
                    chosen.name.replace(/[^A-Za-z0-9]+/g, "-"),
                    ["symbol"],
                    chosen.symbols.map((symbol) => [symbol]),
                  )
                }
              >
                save as CSV
              </button>
            )
          }
        >
          <ul className="max-h-[480px] overflow-auto" data-list-symbols>
            {(chosen?.symbols ?? []).map((symbol) => (
              <li key={symbol} className="flex gap-2 py-0.5">
                <Link to={`/markets/${symbol}`} className="figure-text w-20">
                  {symbol}
                </Link>
                <span className="truncate text-ink-soft">{named.get(symbol) ?? "not there any more"}</span>
              </li>
            ))}
          </ul>
        </Panel>
      </div>
    </>
  );
}
