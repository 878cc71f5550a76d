import { keptFigures } from "#core/optimize";
import { columnsOf, LINES, questionOf } from "~/optimizations/trial-question";
import type { Route } from "./+types/trials-page";

/** Rows that one answer may hold. */
const MOST = 500;

/** Some trials of an optimization, in the order and with the filters that the address names: `from` and `count` are places in that order; `lines` asks for trials to be drawn as lines, with some figures. */
export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { optimizations, preferences, trials } = context.services;
  const view = await optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const search = new URL(request.url).searchParams;
  const columns = columnsOf(view.search, (await preferences.choices()).trialColumns);
  const question = questionOf(
    search,
    columns,
    view.search.vary.map((item) => item.name),
  );
  const lines = search.get("lines");
  if (lines !== null) {
    const kept = keptFigures(view.search);
    const rows = await trials.lines(view, { ...question, columns: lines.split(",").filter((key) => kept.has(key)) }, LINES);
    return Response.json({ of: search.get("f"), rows });
  }
  const from = Math.max(0, Math.floor(Number(search.get("from") ?? 0)) || 0);
  const count = Math.max(1, Math.min(MOST, Math.floor(Number(search.get("count") ?? 100)) || 100));
  return Response.json(await trials.page(view, question, from, count));
}
