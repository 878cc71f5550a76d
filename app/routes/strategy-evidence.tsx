import { useCallback } from "react";
import { data, Link } from "react-router";
import { formatDate } from "#core/bars";
import { PROBES } from "#core/probes";
import { probeSettings } from "#server/probe-settings";
import { isRefused, Refused } from "#server/problem";
import { searchChoices } from "#server/search-choices";
import { STATUSES, type Status } from "#server/status";
import { strategyPage } from "#server/strategy-page";
import { Button } from "~/design/button";
import { dateText } from "~/design/format";
import { Empty } from "~/design/panel";
import { useAddress } from "~/design/use-address";
import { LayerIndex } from "~/probes/layer-index";
import { PostButton } from "~/probes/post-button";
import { ProbeSheet } from "~/probes/probe-sheet";
import { SetUp } from "~/probes/set-up";
import { StatusPanel } from "~/probes/status-panel";
import { useCellWalk } from "~/probes/use-cell-walk";
import { useRefresh } from "~/shell/jobs";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-evidence";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `Evidence of ${page?.version.strategyName ?? "a strategy"} · Canyon` },
];

/** Share of the dates that a usual split leaves in sample. */
const USUAL = 0.7;

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { services } = context;
  const search = new URL(request.url).searchParams;
  const page = await strategyPage(services, Number(params.id), search.has("v") ? Number(search.get("v")) : null);
  if (page === null) throw new Response("There is no such strategy or version.", { status: 404 });
  const { version } = page;
  const [probes, markets, optimizations, moves, seals, ledger] = await Promise.all([
    services.probes.ofVersion(version.id),
    services.markets.list(),
    services.optimizations.list(version.strategyId),
    services.statusMoves.of(version.strategyId),
    services.seals.all(),
    services.strategies.trialsOf(version.strategyId),
  ]);
  const known = version.settings?.markets[0].symbol;
  const own = markets.find((market) => market.symbol === known) ?? markets[0];
  // what an optimization was allowed to see is the natural in-sample stretch
  const seen = optimizations[0]?.settings.to ?? null;
  const usual = own === undefined ? null : formatDate(Math.floor((own.firstTime + (own.lastTime - own.firstTime) * USUAL) / 86_400_000));
  const asked = Number(search.get("probe")) || null;
  const shown = probes.find((probe) => probe.id === asked) ?? probes.at(-1);
  return {
    ...page,
    // only the layer that is looked at brings its drawings along
    probes: probes.map((probe) =>
      probe === shown || probe.outcome === null ? probe : { ...probe, outcome: { ...probe.outcome, drawings: [], parts: [] } },
    ),
    moves,
    trials: ledger.total,
    status: version.status,
    markets: markets.map(({ symbol, firstTime, lastTime, id }) => ({
      symbol,
      label: `${symbol}, ${dateText(firstTime)} to ${dateText(lastTime)}${seals.has(id) ? ", sealed after" : ""}`,
    })),
    own: own?.symbol ?? null,
    searches: searchChoices(version.strategy, optimizations),
    split: search.get("split") ?? seen ?? usual,
  };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const { services } = context;
  const { jobs, probes, statusMoves } = services;
  const form = await request.formData();
  const text = (key: string) => String(form.get(key) ?? "");
  const versionOf = async () => {
    const version = await services.strategies.version(Number(form.get("version")));
    if (version === null || version.strategyId !== Number(params.id))
      throw new Refused([{ path: "version", message: "this version does not exist any more" }]);
    return version;
  };
  const jobOf = async (id: number) => {
    const job = (await probes.get(id))?.job;
    if (job === null || job === undefined) throw new Refused([{ path: "probe", message: "it is not running" }]);
    return job.id;
  };
  try {
    const id = Number(form.get("probe"));
    const opening = form.has("reason") ? { reason: text("reason"), name: text("name") } : null;
    switch (form.get("intent")) {
      case "run":
        await probes.start(id, opening);
        break;
      case "change":
        await probes.change(id, JSON.parse(text("input")));
        break;
      case "remove":
        await probes.remove(id);
        break;
      case "overrule":
        await probes.overrule(id, text("reason"), text("name"));
        break;
      case "cancel":
        await jobs.cancel(await jobOf(id));
        break;
      case "pause":
        await jobs.pause(await jobOf(id));
        break;
      case "resume":
        await jobs.resume(await jobOf(id));
        break;
      case "status":
        await statusMoves.move(await versionOf(), text("status"), text("reason"), text("name"), JSON.parse(text("evidence")) as number[]);
        break;
      case "outdated":
        for (const probe of await probes.ofVersion((await versionOf()).id))
          if (probe.state === "out of date" && probe.kind !== "holdOut") await probes.start(probe.id);
        break;
      case "again": {
        // the criteria of an earlier version's probes, set before this version's run
        const version = await versionOf();
        const before = (await services.strategies.versionsOf(version.strategyId)).filter((one) => one.number < version.number);
        for (const probe of before.length === 0
          ? []
          : await latestProbes(
              services,
              before.map((one) => one.id),
            ))
          await probes.create(version, probe.kind, probe.input.probe, probe.input.settings);
        break;
      }
      default: {
        const version = await versionOf();
        const market = await services.markets.bySymbol(text("market"));
        if (market === null) throw new Refused([{ path: "market", message: "choose a market" }]);
        const [input, settings] = [JSON.parse(text("input")) as unknown, probeSettings(version, market)];
        if (form.get("intent") === "estimate") return { problems: [], cost: await probes.estimate(version, text("kind"), input, settings) };
        const made = await probes.create(version, text("kind"), input, settings);
        if (form.has("start")) await probes.start(made);
        return { problems: [], made };
      }
    }
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

/** The probes of the newest of some versions that has any. */
async function latestProbes(services: Route.ActionArgs["context"]["services"], versionIds: number[]) {
  for (const id of [...versionIds].reverse()) {
    const probes = await services.probes.ofVersion(id);
    if (probes.length > 0) return probes;
  }
  return [];
}

export default function EvidencePage({ loaderData }: Route.ComponentProps) {
  const { version, versions, layers, counts, probes, markets, own, searches, moves, status, split, trials } = loaderData;
  const { params, set } = useAddress();
  const chosenId = Number(params.get("probe")) || null;
  const setting = params.get("new");
  const chosen = probes.find((probe) => probe.id === chosenId) ?? (setting === null ? probes.at(-1) : undefined);
  const going = probes.some((probe) => probe.job !== null && ["queued", "running"].includes(probe.job.state));
  useRefresh(going, 600);
  const outdated = probes.filter((probe) => probe.state === "out of date").length;
  const asked = new Set(probes.map((probe) => probe.kind));
  const base = `/strategies/${version.strategyId}/evidence`;
  const shown = version.number < versions.length ? `v=${version.number}&` : "";
  const onMade = useCallback((probe: number) => set("probe", String(probe), ["new"]), [set]);
  const onCell = useCellWalk(version.id, chosen?.kind === "walkForwardMap" ? chosen : undefined);
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`version ${version.number}${version.number < versions.length ? `, an older one of ${versions.length}` : ""} · ${probes.length} ${probes.length === 1 ? "probe" : "probes"} · ${trials.toLocaleString("en")} trials on its line`}
        layers={layers}
        counts={counts}
        actions={
          <>
            {outdated > 0 && <PostButton intent="outdated" version={version.id}>{`Run what is out of date (${outdated})`}</PostButton>}
            <Button look="quiet" asChild>
              <Link to={`${base}/page?v=${version.number}`}>Evidence on one page</Link>
            </Button>
            <Button look="quiet" asChild>
              <Link to={`/strategies/${version.strategyId}/ledger`}>Trial ledger</Link>
            </Button>
          </>
        }
      />
      {markets.length === 0 || own === null ? (
        <Empty
          title="No market to probe on"
          action={
            <Link to="/markets/import" className="quiet-link">
              Import bars
            </Link>
          }
        >
          A probe needs bars.
        </Empty>
      ) : (
        <div className="grid grid-cols-[minmax(280px,1fr)_minmax(0,2.1fr)] items-start gap-4">
          <div className="flex flex-col gap-3">
            <LayerIndex probes={probes} chosen={chosen?.id ?? null} href={(id) => `${base}?${shown}probe=${id}`} />
            {probes.length > 0 && <p className="text-sm text-ink-soft">oldest at the bottom; thickness: how much data it rests on</p>}
            {probes.length === 0 && versions.length > 1 && (
              <PostButton intent="again" version={version.id}>
                Ask what the version before was asked
              </PostButton>
            )}
            <nav aria-label="Not asked yet">
              <h2 className="mb-1 text-base font-semibold">Not asked yet</h2>
              <ul className="flex flex-col">
                {[...PROBES.values()]
                  .filter((kind) => !asked.has(kind.kind))
                  .map((kind) => (
                    <li key={kind.kind}>
                      <Link
                        to={`${base}?${shown}new=${kind.kind}`}
                        className={`block rounded-[4px] px-2 py-0.5 no-underline hover:bg-shade ${setting === kind.kind ? "bg-shade" : ""}`}
                        title={kind.question}
                      >
                        {kind.name} <span className="text-sm text-ink-soft">{kind.question}</span>
                      </Link>
                    </li>
                  ))}
              </ul>
              {asked.size > 0 && (
                <Link to={`${base}?${shown}new=${[...asked][0]}`} className="quiet-link mt-1 inline-block">
                  Another one of a kind that was asked
                </Link>
              )}
            </nav>
            <StatusPanel
              version={version}
              status={STATUSES.find((one) => one === status) ?? ("draft" as Status)}
              probes={probes}
              moves={moves}
            />
          </div>
          {setting !== null && PROBES.has(setting) ? (
            <SetUp
              key={setting}
              version={version}
              kind={setting}
              markets={markets}
              market={own}
              searches={searches}
              given={{ split, timeframes: version.strategy.timeframe === "1d" ? ["1w"] : ["1d"] }}
              onKind={(kind) => set("new", kind)}
              onMade={onMade}
            />
          ) : chosen !== undefined ? (
            <ProbeSheet
              key={`${chosen.id} ${chosen.criteriaSetAt}`}
              probe={chosen}
              symbols={markets
                .map((market) => market.symbol)
                .filter((symbol) => !chosen.input.settings.markets.some((market) => market.symbol === symbol))}
              searches={searches}
              onCell={chosen.kind === "walkForwardMap" ? onCell : undefined}
            />
          ) : (
            <Empty
              title="Nothing has been asked of this version yet"
              action={
                <Button asChild look="primary">
                  <Link to={`${base}?${shown}new=outOfSample`}>Set up the first probe</Link>
                </Button>
              }
            >
              A probe is one test of whether a version would hold up. Its criteria are written down before it runs, so that nobody moves
              them under a result.
            </Empty>
          )}
        </div>
      )}
    </>
  );
}
