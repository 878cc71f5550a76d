import { data, Link, redirect } from "react-router";
import type { Settings } from "#core/documents";
import type { Search } from "#core/optimize";
import { isRefused, Refused } from "#server/problem";
import type { PlanDocument } from "#server/plans";
import { namedSettings } from "#server/run-settings";
import type { Services } from "#server/services";
import { leaveOut } from "#server/leave-out";
import { Button } from "~/design/button";
import { Empty, PageHead } from "~/design/panel";
import { OptimizationSetup } from "~/optimizations/setup";
import type { Route } from "./+types/optimization-new";

export const meta: Route.MetaFunction = () => [{ title: "New optimization · Canyon" }];

/** What a set-up begins with: a stored plan, or an earlier optimization. */
export interface SetupStart extends PlanDocument {
  /** the plan's name; null where it is no plan */
  plan: { id: number; name: string } | null;
}

async function startOf(
  services: Services,
  address: URLSearchParams,
): Promise<{ start: SetupStart; versionId: number | null; strategyId: number } | null> {
  const number = (key: string) => (address.has(key) ? Number(address.get(key)) : null);
  const [plan, like] = [number("plan"), number("like")];
  if (plan !== null) {
    const found = await services.plans.get(plan);
    if (found === null) throw new Response("There is no such plan.", { status: 404 });
    return { start: { ...found.document, plan: { id: found.id, name: found.name } }, versionId: null, strategyId: found.strategyId };
  }
  if (like === null) return null;
  const view = await services.optimizations.get(like);
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const { search, settings, versionId, strategyId } = view;
  return { start: { search, settings, share: "100", without: null, plan: null }, versionId, strategyId };
}

export async function loader({ context, request }: Route.LoaderArgs) {
  const { services } = context;
  const address = new URL(request.url).searchParams;
  const [strategies, markets, lists, begun] = await Promise.all([
    services.strategies.newest(),
    services.markets.list(),
    services.lists.list(),
    startOf(services, address),
  ]);
  const id = address.has("version")
    ? Number(address.get("version"))
    : begun !== null
      ? (begun.versionId ?? strategies.find((version) => version.strategyId === begun.strategyId)?.id ?? null)
      : (strategies.find((version) => (version.strategy.parameters ?? []).length > 0)?.id ?? null);
  const version = id === null ? null : await services.strategies.version(id);
  if (address.has("version") && version === null) throw new Response("There is no such version.", { status: 404 });
  return {
    strategies,
    markets,
    version,
    start: begun?.start ?? null,
    plans: version === null ? [] : (await services.plans.list(version.strategyId)).map(({ id: key, name }) => ({ id: key, name })),
    lists: lists.filter((list) => list.kind === "exclude").map(({ id: key, name, symbols }) => ({ id: key, name, symbols })),
    ...(await namedSettings(services, address.get("under"))),
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { services } = context;
  try {
    const intent = String(form.get("intent"));
    if (intent === "removePlan" || intent === "restorePlan") {
      const plan = Number(form.get("plan"));
      await (intent === "removePlan" ? services.plans.remove(plan) : services.plans.restore(plan));
      return { problems: [], measured: null, saved: null };
    }
    const version = await services.strategies.version(Number(form.get("version")));
    if (version === null) throw new Refused([{ path: "version", message: "this version does not exist any more" }]);
    const [search, settings] = [JSON.parse(String(form.get("search"))) as unknown, JSON.parse(String(form.get("settings"))) as unknown];
    const listId = Number(form.get("without") ?? 0);
    if (intent === "savePlan") {
      const document: PlanDocument = {
        search: search as Search,
        settings: settings as Settings,
        share: String(form.get("share")),
        without: listId || null,
      };
      const id = await services.plans.save(version.strategyId, String(form.get("name") ?? ""), document);
      return { problems: [], measured: null, saved: id };
    }
    const list = listId === 0 ? null : await services.lists.get(listId);
    if (listId !== 0 && list === null) throw new Refused([{ path: "exclusion list", message: "this list does not exist any more" }]);
    const { settings: left, without } = leaveOut(settings as Settings, list);
    if (intent === "measure") return { problems: [], measured: await services.optimizations.measure(version, search, left), saved: null };
    const plan = String(form.get("planName") ?? "");
    const id = await services.optimizations.create(version, search, left, { plan: plan === "" ? null : plan, without });
    return redirect(`/optimizations/${id}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems, measured: null, saved: null }, { status: error.status });
    throw error;
  }
}

export default function NewOptimizationPage({ loaderData }: Route.ComponentProps) {
  const { version, start } = loaderData;
  if (version === null)
    return (
      <>
        <PageHead title="New optimization" />
        <Empty
          title="No strategy with parameters yet"
          action={
            <Button asChild look="primary">
              <Link to="/strategies/new">New strategy</Link>
            </Button>
          }
        >
          An optimization varies the parameters of a strategy. Give one of yours a parameter first: a number with a name that its rules use.
        </Empty>
      </>
    );
  return <OptimizationSetup key={`${version.id} ${start?.plan?.id ?? ""}`} {...loaderData} version={version} />;
}
