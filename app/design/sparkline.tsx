/** A small curve for lists. */
export function Sparkline({
  values,
  width = 130,
  height = 28,
  base,
  label,
}: {
  values: readonly number[];
  width?: number;
  height?: number;
  base?: number;
  label: string;
}) {
  if (values.length < 2) return null;
  const low = Math.min(...values, base ?? Infinity);
  const high = Math.max(...values, base ?? -Infinity);
  const y = (x: number) => 2 + (height - 4) * (high === low ? 0.5 : (high - x) / (high - low));
  const points = values.map((value, i) => `${((i * width) / (values.length - 1)).toFixed(1)},${y(value).toFixed(1)}`).join(" ");
  const down = base !== undefined && values[values.length - 1] < base;
  return (
    <svg width={width} height={height} role="img" aria-label={label} className="block">
      {base !== undefined && <line x1="0" x2={width} y1={y(base)} y2={y(base)} stroke="var(--edge)" strokeDasharray="2 2" />}
      <polyline
        points={points}
        fill="none"
        stroke={base === undefined ? "var(--slate)" : down ? "var(--clay)" : "var(--river)"}
        strokeWidth="1.3"
        strokeDasharray={down ? "3 1.5" : undefined}
      />
    </svg>
  );
}
