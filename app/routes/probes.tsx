import { Link } from "react-router";
import { layerOf } from "#server/layers";
import { PROBES } from "#core/probes";
import { Button } from "~/design/button";
import { dateText } from "~/design/format";
import { Empty, PageHead } from "~/design/panel";
import { Strata } from "~/design/strata";
import { askedWords } from "~/probes/form-state";
import { stateInk, stateWords } from "~/probes/layer-looks";
import type { Route } from "./+types/probes";

export const meta: Route.MetaFunction = () => [{ title: "Probes · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  const probes = await context.services.probes.all();
  return {
    probes: probes.map((probe) => ({
      ...probe,
      layer: layerOf(probe),
      asked: askedWords(PROBES.get(probe.kind)!, probe.input.probe.criteria),
      outcome: probe.outcome === null ? null : { said: probe.outcome.said },
      earlier: probe.earlier.length,
    })),
  };
}

export default function ProbesPage({ loaderData: { probes } }: Route.ComponentProps) {
  return (
    <>
      <PageHead
        title="Probes"
        about={`${probes.length} so far: ${probes.filter((p) => p.state === "passed").length} passed, ${probes.filter((p) => p.state === "failed").length} failed`}
      />
      {probes.length === 0 ? (
        <Empty
          title="Nothing probed yet"
          action={
            <Button asChild look="primary">
              <Link to="/library">Choose a strategy</Link>
            </Button>
          }
        >
          A probe is one test of whether a version would hold up, with criteria that are set before it runs. Open a strategy of the library
          and go to its evidence.
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["", "version", "probe", "market", "asked", "came out", "state", "ran"].map((head) => (
                  <th key={head} scope="col" className="px-3 py-2 text-left font-normal">
                    {head || <span className="sr-only">layer</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {probes.map((probe) => (
                <tr key={probe.id} className="border-t border-edge hover:bg-shade/50">
                  <td className="py-2 pl-3">
                    <Strata layers={[probe.layer]} height={22} />
                  </td>
                  <th scope="row" className="px-3 text-left">
                    <Link
                      to={`/strategies/${probe.strategyId}/evidence?v=${probe.versionNumber}&probe=${probe.id}`}
                      className="no-underline hover:underline"
                    >
                      {probe.strategyName} v{probe.versionNumber}
                    </Link>
                  </th>
                  <td className="px-3">{probe.name}</td>
                  <td className="px-3">{probe.input.settings.markets.map((market) => market.symbol).join(", ")}</td>
                  <td className="px-3">{probe.asked}</td>
                  <td className="px-3">{probe.outcome?.said ?? "–"}</td>
                  <td className={`px-3 whitespace-nowrap ${stateInk(probe.layer)}`}>{stateWords(probe.layer)}</td>
                  <td className="figure-text px-3">{probe.ranAt === null ? "–" : dateText(probe.ranAt)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
