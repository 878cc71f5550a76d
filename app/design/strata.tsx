import type { Layer } from "#server/layers";
import { useId } from "react";

type Drawn = Pick<Layer, "name" | "state" | "weight" | "overruled" | "sealed">;

/** Hatches that layers are filled with. */
function Hatches({ id }: { id: string }) {
  return (
    <defs>
      <pattern id={`${id}-failed`} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="5" height="5" fill="var(--sheet)" />
        <rect width="2.2" height="5" fill="var(--clay)" />
      </pattern>
      <pattern id={`${id}-sealed`} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="4" height="4" fill="var(--sheet)" />
        <rect width="0.9" height="4" fill="var(--ink-faint)" />
      </pattern>
    </defs>
  );
}

interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

function OneLayer({ id, layer, box }: { id: string; layer: Drawn; box: Box }) {
  if (layer.sealed) return <rect {...box} fill={`url(#${id}-sealed)`} stroke="var(--ink-faint)" />;
  if (layer.state === "passed") return <rect {...box} fill="var(--moss)" stroke="var(--moss)" />;
  if (layer.state === "failed") {
    const corner = Math.min(10, box.width * 0.4, box.height);
    const right = box.x + box.width;
    return (
      <>
        <rect {...box} fill={`url(#${id}-failed)`} stroke="var(--clay)" />
        {layer.overruled && <path d={`M${right - corner},${box.y} H${right} V${box.y + corner} Z`} fill="var(--ink)" />}
      </>
    );
  }
  if (layer.state === "out of date") return <rect {...box} fill="none" stroke="var(--slate)" strokeDasharray="1.5 2" />;
  return <rect {...box} fill="none" stroke="var(--ink-faint)" />;
}

const said = ({ name, state, overruled, sealed }: Drawn): string =>
  `${name} ${overruled ? "failed, overruled" : sealed ? "sealed" : state}`;

/**
 * The strata: one layer a probe, oldest at the bottom; thickness by the bars that the probe rested on, fill by outcome.
 * Without a probe it is one empty outline.
 */
export function Strata({ layers, width = 18, height = 40 }: { layers: readonly Drawn[]; width?: number; height?: number }) {
  const id = useId();
  const shown: readonly Drawn[] =
    layers.length > 0 ? layers : [{ name: "no probe yet", state: "untested", weight: 1, overruled: false, sealed: false }];
  const gap = shown.length > 8 ? 1 : 2;
  const sizes = shown.map((layer) => Math.sqrt(Math.max(1, layer.weight)));
  const total = sizes.reduce((a, b) => a + b, 0);
  const room = height - gap * (shown.length - 1);
  const text = layers.length === 0 ? "Evidence: untested" : `Evidence, oldest first: ${layers.map(said).join("; ")}`;
  let bottom = height;
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={text} className="shrink-0">
      <title>{text}</title>
      <Hatches id={id} />
      {shown.map((layer, i) => {
        const thick = Math.max(shown.length > 8 ? 2 : 4, (room * sizes[i]) / total);
        bottom -= thick;
        const y = bottom;
        bottom -= gap;
        return <OneLayer key={i} id={id} layer={layer} box={{ x: 0.5, y: y + 0.5, width: width - 1, height: Math.max(2, thick - 1) }} />;
      })}
    </svg>
  );
}

/** One layer by itself. */
export function LayerMark({ layer, width, height }: { layer: Drawn; width: number; height: number }) {
  const id = useId();
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={said(layer)} className="shrink-0">
      <title>{said(layer)}</title>
      <Hatches id={id} />
      <OneLayer id={id} layer={layer} box={{ x: 0.5, y: 0.5, width: width - 1, height: height - 1 }} />
    </svg>
  );
}
