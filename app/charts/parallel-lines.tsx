import { useMemo, useRef, useState, type PointerEvent } from "react";

export interface ParallelAxis {
  key: string;
  label: string;
  /** lowest and highest value drawn */
  from: number;
  to: number;
}

/** A stretch of one axis. */
export interface Stretch {
  least: number | null;
  most: number | null;
}

interface Props {
  label: string;
  axes: readonly ParallelAxis[];
  /** one value an axis; null: none, the line is broken there */
  lines: readonly { id: number; values: readonly (number | null)[]; strong: boolean }[];
  /** lines that are set off: by id */
  marked: ReadonlyMap<number, string>;
  stretches: ReadonlyMap<string, Stretch>;
  onStretch: (key: string, stretch: Stretch | null) => void;
  onPick: (id: number) => void;
  height?: number;
}

const WIDTH = 1000;
const TOP = 30;
const BOTTOM = 14;
/** Distance from an end of an axis that counts as the end. */
const NEAR = 6;

const text = (x: number) => String(Number(x.toPrecision(4)));

/** Lines across upright axes, one axis a name or figure; a stretch drawn on an axis with the mouse keeps what runs through it. */
export function ParallelLines({ label, axes, lines, marked, stretches, onStretch, onPick, height = 300 }: Props) {
  const frame = useRef<SVGSVGElement>(null);
  const [drawing, setDrawing] = useState<{ key: string; from: number; to: number } | null>(null);
  const low = height - BOTTOM;
  const place = (i: number) => 50 + (axes.length === 1 ? 0 : (i * (WIDTH - 100)) / (axes.length - 1));
  const level = ({ from, to }: ParallelAxis, value: number) => low - (to > from ? (value - from) / (to - from) : 0.5) * (low - TOP);
  const valueAt = ({ from, to }: ParallelAxis, y: number) => from + ((low - y) / (low - TOP)) * (to - from);
  const paths = useMemo(
    () =>
      lines.map(({ id, values, strong }) => {
        let path = "";
        let open = false;
        values.forEach((value, i) => {
          if (value === null) return void (open = false);
          path += `${open ? "L" : "M"}${place(i).toFixed(1)} ${level(axes[i], value).toFixed(1)}`;
          open = true;
        });
        return { id, path, strong };
      }),
    // places follow from axes and height
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [lines, axes, height],
  );
  const at = (event: PointerEvent) => {
    const box = frame.current!.getBoundingClientRect();
    return Math.min(low, Math.max(TOP, ((event.clientY - box.top) / box.height) * height));
  };
  const end = (event: PointerEvent) => {
    if (drawing === null) return;
    // where the mouse is now, which may not have been drawn yet
    const to = at(event);
    const axis = axes.find((one) => one.key === drawing.key)!;
    const [above, below] = [Math.min(drawing.from, to), Math.max(drawing.from, to)];
    setDrawing(null);
    // a stretch that reaches an end of the axis is open there: nobody hits the end itself
    const stretch: Stretch = {
      least: below > low - NEAR ? null : Number(valueAt(axis, below).toPrecision(5)),
      most: above < TOP + NEAR ? null : Number(valueAt(axis, above).toPrecision(5)),
    };
    const nothing = below - above < 4 || (stretch.least === null && stretch.most === null);
    onStretch(axis.key, nothing ? null : stretch);
  };
  return (
    <svg
      ref={frame}
      viewBox={`0 0 ${WIDTH} ${height}`}
      preserveAspectRatio="none"
      className="block w-full"
      style={{ height }}
      role="img"
      aria-label={label}
      data-lines={lines.filter((line) => line.strong).length}
      onPointerMove={(event) => drawing && setDrawing({ ...drawing, to: at(event) })}
      onPointerUp={end}
      onPointerLeave={end}
    >
      <g fill="none" strokeWidth="1" vectorEffect="non-scaling-stroke">
        {paths
          .filter((line) => !line.strong)
          .map(({ id, path }) => (
            <path key={id} d={path} stroke="var(--edge)" opacity="0.7" vectorEffect="non-scaling-stroke" />
          ))}
        {[false, true].map((mark) =>
          // what is marked lies over the rest
          paths
            .filter((line) => (mark ? marked.has(line.id) : line.strong && !marked.has(line.id)))
            .map(({ id, path }) => (
              <path
                key={id}
                d={path}
                stroke={mark ? "var(--ink)" : "var(--river)"}
                strokeWidth={mark ? 2 : 1}
                opacity={mark ? 1 : 0.28}
                vectorEffect="non-scaling-stroke"
                className="cursor-pointer hover:opacity-100"
                onClick={() => onPick(id)}
              >
                <title>{mark ? `trial ${id}, ${marked.get(id)}` : `trial ${id}`}</title>
              </path>
            )),
        )}
      </g>
      {axes.map((axis, i) => {
        const stretch = stretches.get(axis.key);
        const [from, to] =
          drawing?.key === axis.key
            ? [drawing.from, drawing.to]
            : stretch === undefined
              ? [NaN, NaN]
              : [level(axis, stretch.most ?? axis.to), level(axis, stretch.least ?? axis.from)];
        return (
          <g key={axis.key}>
            <line x1={place(i)} x2={place(i)} y1={TOP} y2={low} stroke="var(--ink-soft)" vectorEffect="non-scaling-stroke" />
            {!Number.isNaN(from) && (
              <rect
                x={place(i) - 7}
                width={14}
                y={Math.min(from, to)}
                height={Math.max(3, Math.abs(from - to))}
                fill="var(--ochre)"
                opacity="0.45"
                stroke="var(--ochre)"
              />
            )}
            <rect
              x={place(i) - 16}
              width={32}
              y={TOP}
              height={low - TOP}
              fill="transparent"
              className="cursor-crosshair"
              data-axis={axis.key}
              onPointerDown={(event) => {
                event.preventDefault();
                const y = at(event);
                setDrawing({ key: axis.key, from: y, to: y });
              }}
            />
          </g>
        );
      })}
    </svg>
  );
}

/** Names of the axes with their ends, above and below their lines; words would be stretched with the drawing. */
export function ParallelHeads({ axes }: { axes: readonly ParallelAxis[] }) {
  const share = (i: number) => `${5 + (axes.length === 1 ? 0 : (i * 90) / (axes.length - 1))}%`;
  return (
    <div className="relative h-9 text-sm" aria-hidden>
      {axes.map((axis, i) => (
        <div key={axis.key} className="absolute -translate-x-1/2 text-center leading-tight whitespace-nowrap" style={{ left: share(i) }}>
          <div>{axis.label}</div>
          <div className="figure-text text-xs text-ink-soft">
            {text(axis.from)} to {text(axis.to)}
          </div>
        </div>
      ))}
    </div>
  );
}
