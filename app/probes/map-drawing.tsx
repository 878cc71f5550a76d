import type { Drawing } from "#core/probes";
import { decimal } from "~/design/format";

const CELL = { width: 74, height: 34 };
const AXIS = 52;

interface Props {
  drawing: Extract<Drawing, { kind: "map" }>;
  /** opens a cell's walk-forward */
  onCell?: (windows: number, outShare: number) => void;
}

const percent = (value: number | null) => (value === null ? "–" : `${decimal(100 * value, 0)} %`);

/** The map of walk-forward settings: cells that hold are filled, the deeper the darker; the recommended one is ringed. */
export function MapDrawing({ drawing, onCell }: Props) {
  const { windows, outShare, cells, recommended } = drawing;
  const deepest = Math.max(1, ...cells.map((cell) => cell.depth ?? 0));
  const width = AXIS + windows.length * CELL.width;
  const height = outShare.length * CELL.height + 34;
  const at = (w: number, s: number) => cells[w * outShare.length + s];
  const holds = (w: number, s: number) => w >= 0 && s >= 0 && w < windows.length && s < outShare.length && at(w, s).holds;
  return (
    <>
      <h3 className="mb-1 font-semibold">Which settings hold</h3>
      <svg viewBox={`0 0 ${width} ${height}`} className="w-full max-w-[640px]" role="group" aria-label="Map of walk-forward settings">
        {outShare.map((share, s) => {
          const y = (outShare.length - 1 - s) * CELL.height;
          return (
            <g key={share}>
              <text x={AXIS - 8} y={y + CELL.height / 2 + 4} textAnchor="end" fontSize="12" fill="var(--ink-soft)">
                {share} %
              </text>
              {windows.map((count, w) => {
                const cell = at(w, s);
                const x = AXIS + w * CELL.width;
                const chosen = recommended !== null && recommended.windows === count && recommended.outShare === share;
                const said = `${count} windows, ${share} % out of sample: efficiency ${percent(cell.efficiency)}, ${percent(cell.profitable)} of the windows in profit, largest ${percent(cell.largestShare)}; ${cell.holds ? `holds, depth ${cell.depth ?? "–"}` : "does not hold"}${chosen ? "; recommended" : ""}`;
                const inside = { x: x + 1, y: y + 1, width: CELL.width - 2, height: CELL.height - 2 };
                return (
                  <g
                    key={count}
                    role={onCell ? "button" : "img"}
                    tabIndex={onCell ? 0 : undefined}
                    aria-label={said}
                    data-cell={`${count} ${share}`}
                    className={onCell ? "cursor-pointer" : undefined}
                    onClick={() => onCell?.(count, share)}
                    onKeyDown={(event) => event.key === "Enter" && onCell?.(count, share)}
                  >
                    <title>{said}</title>
                    <rect {...inside} fill="var(--sheet)" stroke="var(--edge)" />
                    {cell.holds && <rect {...inside} fill="var(--moss)" opacity={0.35 + (0.5 * (cell.depth ?? 1)) / deepest} />}
                    <text
                      x={x + CELL.width / 2}
                      y={y + CELL.height / 2 + 4}
                      textAnchor="middle"
                      fontSize="12"
                      fontFamily="var(--font-figure)"
                      fontWeight={cell.holds ? 600 : 400}
                      fill={cell.holds ? "var(--ink)" : "var(--ink-soft)"}
                    >
                      {percent(cell.efficiency)}
                    </text>
                    {chosen && (
                      <rect
                        x={x + 4}
                        y={y + 4}
                        width={CELL.width - 8}
                        height={CELL.height - 8}
                        fill="none"
                        stroke="var(--ink)"
                        strokeWidth="2"
                      />
                    )}
                    {cell.holds && !holds(w - 1, s) && (
                      <line x1={x} x2={x} y1={y} y2={y + CELL.height} stroke="var(--ink)" strokeWidth="2" />
                    )}
                    {cell.holds && !holds(w + 1, s) && (
                      <line x1={x + CELL.width} x2={x + CELL.width} y1={y} y2={y + CELL.height} stroke="var(--ink)" strokeWidth="2" />
                    )}
                    {cell.holds && !holds(w, s + 1) && (
                      <line x1={x} x2={x + CELL.width} y1={y} y2={y} stroke="var(--ink)" strokeWidth="2" />
                    )}
                    {cell.holds && !holds(w, s - 1) && (
                      <line x1={x} x2={x + CELL.width} y1={y + CELL.height} y2={y + CELL.height} stroke="var(--ink)" strokeWidth="2" />
                    )}
                  </g>
                );
              })}
            </g>
          );
        })}
        {windows.map((count, w) => (
          <text
            key={count}
            x={AXIS + (w + 0.5) * CELL.width}
            y={outShare.length * CELL.height + 15}
            textAnchor="middle"
            fontSize="12"
            fill="var(--ink-soft)"
          >
            {count}
          </text>
        ))}
        <text x={AXIS + (windows.length * CELL.width) / 2} y={height - 2} textAnchor="middle" fontSize="12" fill="var(--ink-soft)">
          across: windows; up: out-of-sample share
        </text>
      </svg>
      <p className="mt-1 text-sm text-ink-soft">
        The figure in a cell is its efficiency. Filled cells hold, the deeper inside the region the darker; the ringed one is recommended.
        {onCell && " A cell opens its walk-forward."}
      </p>
    </>
  );
}
