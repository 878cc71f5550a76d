import { Link } from "react-router";
import { PROBES } from "#core/probes";
import { layerOf } from "#server/layers";
import { strategyPage } from "#server/strategy-page";
import { Button } from "~/design/button";
import { dateText, decimal, momentText } from "~/design/format";
import { LayerMark, Strata } from "~/design/strata";
import { CriteriaTable } from "~/probes/criteria-table";
import { askedWords, inputWords } from "~/probes/form-state";
import { stateInk, stateWords } from "~/probes/layer-looks";
import type { Route } from "./+types/strategy-evidence-page";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `${page?.version.strategyName ?? "Strategy"}, its evidence on one page · Canyon` },
];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { services } = context;
  const search = new URL(request.url).searchParams;
  const page = await strategyPage(services, Number(params.id), search.has("v") ? Number(search.get("v")) : null);
  if (page === null) throw new Response("There is no such strategy or version.", { status: 404 });
  const [probes, moves, ledger, openings] = await Promise.all([
    services.probes.ofVersion(page.version.id),
    services.statusMoves.of(page.version.strategyId),
    services.strategies.trialsOf(page.version.strategyId),
    services.seals.openings(),
  ]);
  return {
    version: page.version,
    layers: page.layers,
    probes,
    moves,
    ledger,
    openings: openings.filter(({ version }) => version?.strategyId === page.version.strategyId),
  };
}

/** All that the probes have said about a version, on one sheet to print and to file. */
export default function EvidenceSheet({ loaderData: { version, layers, probes, moves, ledger, openings } }: Route.ComponentProps) {
  const count = (state: string) => probes.filter((probe) => probe.state === state).length;
  return (
    <article className="mx-auto max-w-[88ch] rounded-[4px] border border-edge bg-sheet px-10 py-8 print:border-0 print:px-0">
      <div className="float-right flex gap-2 print:hidden">
        <Button look="quiet" small onClick={() => window.print()}>
          Print
        </Button>
        <Button look="quiet" small asChild>
          <Link to={`/strategies/${version.strategyId}/evidence?v=${version.number}`}>Back to the evidence</Link>
        </Button>
      </div>
      <header className="mb-4 flex items-start gap-3">
        <Strata layers={layers} width={24} height={64} />
        <div>
          <h1 className="text-2xl leading-tight">{version.strategyName}: the evidence</h1>
          <p className="text-ink-soft">
            version {version.number}, {momentText(version.createdAt)} ·{" "}
            <span className="figure-text text-xs">{version.hash.slice(0, 16)}</span> · status: {version.status}
          </p>
          <p>
            {probes.length} probes: {count("passed")} passed, {count("failed")} failed ({probes.filter((probe) => probe.overruled).length}{" "}
            of them overruled), {count("out of date")} out of date, {count("untested")} untested. {decimal(ledger.total, 0)} trials were
            spent on its line: {decimal(ledger.tries, 0)} changes by hand, {decimal(ledger.runs, 0)} runs,{" "}
            {decimal(ledger.optimizations, 0)} in optimizations, {decimal(ledger.probes, 0)} probes.
          </p>
        </div>
      </header>
      {[...probes].reverse().map((probe) => {
        const layer = layerOf(probe);
        return (
          <section key={probe.id} className="mb-4 break-inside-avoid border-t border-edge pt-3">
            <h2 className="flex items-center gap-2 text-lg">
              <LayerMark layer={layer} width={26} height={18} />
              {probe.name} <span className={`font-text text-base ${stateInk(layer)}`}>{stateWords(layer)}</span>
              <span className="ml-auto font-text text-sm font-normal text-ink-soft">
                {probe.ranAt === null ? "not run yet" : `ran ${dateText(probe.ranAt)}`}, criteria of {dateText(probe.criteriaSetAt)}
              </span>
            </h2>
            <p className="text-ink-soft">
              {probe.question} On {probe.input.settings.markets.map((market) => market.symbol).join(", ")}.{" "}
              {inputWords(PROBES.get(probe.kind)!, probe.input.probe)}
            </p>
            {probe.why && <p>Out of date: {probe.why}.</p>}
            {probe.overruled && (
              <p>
                Overruled by {probe.overruled.name} on {dateText(probe.overruled.at)}: “{probe.overruled.reason}”
              </p>
            )}
            {probe.outcome === null ? (
              <p>Asked: {askedWords(PROBES.get(probe.kind)!, probe.input.probe.criteria)}.</p>
            ) : (
              <>
                <p className="my-1 first-letter:uppercase">{probe.outcome.said}.</p>
                <CriteriaTable criteria={probe.outcome.criteria} />
              </>
            )}
            {probe.earlier.map((one) => (
              <p key={one.ranAt} className="text-sm">
                Before, on {dateText(one.ranAt)}: {one.verdict}; {one.said}.
              </p>
            ))}
            <p className="text-sm text-ink-soft">{probe.caution}</p>
          </section>
        );
      })}
      {probes.length === 0 && <p>Nothing has been asked of this version yet.</p>}
      {openings.length > 0 && (
        <section className="mb-4 border-t border-edge pt-3">
          <h2 className="text-lg">Seals that were opened</h2>
          <ul className="list-disc pl-5">
            {openings.map((one) => (
              <li key={one.id}>
                {one.symbol}, {one.from} to {one.to}, with version {one.version!.number} on {dateText(one.at)} by {one.name}: “{one.reason}”
              </li>
            ))}
          </ul>
        </section>
      )}
      {moves.length > 0 && (
        <section className="border-t border-edge pt-3">
          <h2 className="text-lg">How it came to its status</h2>
          <ul className="list-disc pl-5">
            {moves.map((move) => (
              <li key={move.id}>
                {dateText(move.at)}: {move.before} to {move.after} with version {move.versionNumber}, by {move.name}: “{move.reason}”
                {move.evidence.length > 0 && ` Rests on ${move.evidence.map(({ name, state }) => `${name} (${state})`).join(", ")}.`}
              </li>
            ))}
          </ul>
        </section>
      )}
    </article>
  );
}
