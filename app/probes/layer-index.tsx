import { Link } from "react-router";
import { PROBES } from "#core/probes";
import { layerOf } from "#server/layers";
import type { ProbeView } from "#server/probe-views";
import { LayerMark } from "~/design/strata";
import { askedWords } from "./form-state";
import { stateInk, stateWords } from "./layer-looks";

interface Props {
  /** oldest first */
  probes: readonly ProbeView[];
  chosen: number | null;
  href: (probe: number) => string;
}

/** The strata drawn large, as the index of the evidence: the oldest layer at the bottom, the thicker the more data it rests on. */
export function LayerIndex({ probes, chosen, href }: Props) {
  const layers = probes.map(layerOf);
  const most = Math.max(1, ...layers.map((layer) => Math.sqrt(layer.weight)));
  return (
    <ol aria-label="Layers of evidence" className="flex flex-col-reverse gap-1">
      {probes.map((probe, k) => {
        const layer = layers[k];
        const here = probe.id === chosen;
        return (
          <li key={probe.id}>
            <Link
              to={href(probe.id)}
              preventScrollReset
              aria-current={here ? "true" : undefined}
              data-layer={probe.id}
              className={`flex gap-3.5 rounded-[4px] pr-2 no-underline ${here ? "bg-sheet outline outline-edge" : "hover:bg-shade/50"}`}
            >
              <LayerMark layer={layer} width={54} height={Math.round(44 + (22 * Math.sqrt(layer.weight)) / most)} />
              <span className="min-w-0 py-1">
                <span className="block leading-tight font-semibold">
                  {probe.name} <span className={`font-normal ${stateInk(layer)}`}>{stateWords(layer)}</span>
                </span>
                <span
                  className="block truncate text-sm text-ink-soft"
                  title={askedWords(PROBES.get(probe.kind)!, probe.input.probe.criteria)}
                >
                  asked: {askedWords(PROBES.get(probe.kind)!, probe.input.probe.criteria)}
                </span>
                <span className="block truncate text-sm" title={probe.outcome?.said}>
                  {probe.job !== null && (probe.job.state === "running" || probe.job.state === "queued")
                    ? `${probe.job.state}: ${probe.job.done} of ${probe.job.total}`
                    : (probe.outcome?.said ?? "not run yet")}
                </span>
              </span>
            </Link>
          </li>
        );
      })}
    </ol>
  );
}
