import type { Layer } from "#server/probes";
import { useId } from "react";

/**
 * The strata: one layer a probe, oldest at the bottom; thickness by the bars that the probe rested on, fill by outcome.
 * Without a probe it is one empty outline.
 */
export function Strata({
  layers,
  width = 18,
  height = 40,
}: {
  layers: readonly Pick<Layer, "name" | "state" | "weight">[];
  width?: number;
  height?: number;
}) {
  const id = useId();
  const shown = layers.length > 0 ? layers : [{ name: "no probe yet", state: "untested" as const, weight: 1 }];
  const gap = 2;
  const sizes = shown.map((layer) => Math.sqrt(Math.max(1, layer.weight)));
  const total = sizes.reduce((a, b) => a + b, 0);
  const room = height - gap * (shown.length - 1);
  const text =
    layers.length === 0
      ? "Evidence: untested"
      : `Evidence, oldest first: ${layers.map((layer) => `${layer.name} ${layer.state}`).join("; ")}`;
  let bottom = height;
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={text} className="shrink-0">
      <title>{text}</title>
      <defs>
        <pattern id={`${id}-h`} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill="var(--sheet)" />
          <rect width="2.2" height="5" fill="var(--clay)" />
        </pattern>
      </defs>
      {shown.map((layer, i) => {
        const thick = Math.max(4, (room * sizes[i]) / total);
        bottom -= thick;
        const y = bottom;
        bottom -= gap;
        const box = { x: 0.5, y: y + 0.5, width: width - 1, height: Math.max(3, thick - 1) };
        if (layer.state === "passed") return <rect key={i} {...box} fill="var(--moss)" stroke="var(--moss)" />;
        if (layer.state === "failed") return <rect key={i} {...box} fill={`url(#${id}-h)`} stroke="var(--clay)" />;
        if (layer.state === "out of date") return <rect key={i} {...box} fill="none" stroke="var(--slate)" strokeDasharray="1.5 2" />;
        return <rect key={i} {...box} fill="none" stroke="var(--ink-faint)" />;
      })}
    </svg>
  );
}
