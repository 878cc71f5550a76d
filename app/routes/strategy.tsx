import { data, useSearchParams } from "react-router";
import { READY_MADE } from "#core/library";
import { isRefused, Refused } from "#server/problem";
import { namedSettings } from "#server/run-settings";
import { strategyPage } from "#server/strategy-page";
import { StrategyHead } from "~/strategies/head";
import { lastSettingsOf, Workbench, type SaveAnswer } from "~/strategies/workbench";
import { valuesOf, withValues } from "~/strategies/with-values";
import type { Route } from "./+types/strategy";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `${page?.version.strategyName ?? "Strategy"} · Canyon` }];
export const handle = {
  keys: [
    { keys: "Ctrl S", what: "save as the next version" },
    { keys: "Ctrl Z", what: "undo; with Shift, redo" },
    { keys: "Ctrl Space", what: "complete a name in a rule" },
    { keys: "F2", what: "in a rule: rename what the cursor is on, everywhere" },
    { keys: "Shift Alt F", what: "in a rule: write it as the notation would" },
    { keys: "Alt ↓", what: "try the next variant; Alt ↑ the one before" },
    { keys: "← →", what: "why here: bar to bar; ↑ ↓ trade to trade, N next near miss, E tint" },
  ],
};

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const search = new URL(request.url).searchParams;
  const page = await strategyPage(context.services, Number(params.id), search.has("v") ? Number(search.get("v")) : null);
  if (page === null) throw new Response("There is no such strategy or version.", { status: 404 });
  const { markets, definitions, strategies } = context.services;
  const [list, own, ledger, settings] = await Promise.all([
    markets.list(),
    definitions.own(),
    strategies.trialsOf(Number(params.id)),
    namedSettings(context.services, search.get("under")),
  ]);
  return { ...page, markets: list, library: [...own, ...READY_MADE], ledger, ...settings };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { strategies, runs, audits } = context.services;
  const document = JSON.parse(String(form.get("document"))) as unknown;
  const settings = JSON.parse(String(form.get("settings"))) as unknown;
  const hand = JSON.parse(String(form.get("hand"))) as unknown;
  const id = Number(params.id);
  try {
    if (form.get("intent") === "run") {
      const version = await strategies.version(Number(form.get("version")));
      if (version === null) throw new Refused([{ path: "version", message: "this version does not exist any more" }]);
      return {
        saved: null,
        run: await runs.save(version, settings, { under: Number(form.get("under")) || null, hand }),
        conflict: false,
        problems: [],
      } satisfies SaveAnswer;
    }
    const note = String(form.get("note"));
    const version = await strategies.save(id, Number(form.get("basedOn")), document, note, hand, form.get("evenSo") === "yes");
    audits.begin(version);
    return { saved: { strategyId: id, number: version.number }, run: null, conflict: false, problems: [] } satisfies SaveAnswer;
  } catch (error) {
    if (isRefused(error))
      return data({ saved: null, run: null, conflict: error.status === 409, problems: error.problems } satisfies SaveAnswer, {
        status: error.status,
      });
    throw error;
  }
}

export default function StrategyPage({ loaderData }: Route.ComponentProps) {
  const { version, versions, layers, counts, markets, library, ledger, named, laidOver } = loaderData;
  const [params] = useSearchParams();
  const search = params.get("set");
  const start = withValues(version.strategy, valuesOf(search));
  const older = version.number < versions.length;
  return (
    <Workbench
      key={`${version.strategyId} ${version.number} ${search ?? ""}`}
      saved={version.strategy}
      start={search === null ? version.strategy : start}
      version={{ id: version.id, strategyId: version.strategyId, number: version.number, basedOn: versions.length }}
      markets={markets}
      library={library}
      ledger={ledger}
      named={named}
      laidOver={laidOver}
      lastSettings={lastSettingsOf(version.settings)}
      head={(actions, changed) => (
        <StrategyHead
          id={version.strategyId}
          name={version.strategyName}
          about={`version ${version.number}${older ? `, an older one of ${versions.length}` : ""}${changed ? ", changed" : ""} · ${version.status} · ${version.strategy.timeframe}`}
          layers={layers}
          counts={counts}
          actions={actions}
        />
      )}
    />
  );
}
