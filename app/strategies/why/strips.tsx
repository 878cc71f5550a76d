import type { RuleConditions } from "#core/runs";
import { textInWords } from "#core/wording";

interface StripsProps {
  rule: RuleConditions;
  settings: ReadonlySet<string>;
  /** rows in view */
  from: number;
  to: number;
  selected: number | null;
  /** width that the prices' own axis takes on the right */
  gutter?: number;
}

/** A rule condition by condition under the prices: a mark on each bar where one holds, a ring where one alone was missing. */
export function ConditionStrips({ rule, settings, from, to, selected, gutter = 64 }: StripsProps) {
  const first = Math.max(0, Math.ceil(from));
  const last = Math.min(rule.columns[0].length - 1, Math.floor(to));
  const span = to - from || 1;
  const x = (row: number) => ((row - from) / span) * 1000;
  const width = Math.max(0.6, (1000 / span) * 0.72);
  const few = last - first < 1500;
  const height = 15;
  return (
    <div className="mt-1" role="img" aria-label={`${rule.rule}, condition by condition`}>
      <p className="text-sm text-ink-soft">
        <span className="font-semibold text-ink">{rule.rule}, condition by condition</span> ○ only one was missing
      </p>
      {rule.columns.map((column, k) => (
        <div key={k} className="flex items-center">
          <svg viewBox={`0 0 1000 ${height}`} preserveAspectRatio="none" className="h-[15px] min-w-0 flex-1">
            <line x1={0} x2={1000} y1={height / 2} y2={height / 2} className="stroke-edge" vectorEffect="non-scaling-stroke" />
            {selected !== null && <rect x={x(selected) - width} y={0} width={width * 2} height={height} className="fill-ochre/30" />}
            {stretches(column, first, last, few).map(([a, b]) => (
              <rect
                key={a}
                x={x(a) - width / 2}
                y={2}
                width={Math.max(width, x(b) - x(a) + width)}
                height={height - 4}
                className="fill-moss"
              />
            ))}
          </svg>
          <span style={{ width: gutter }} className="truncate pl-1 text-xs text-ink-soft" title={textInWords(rule.texts[k], settings)}>
            {k + 1}
          </span>
        </div>
      ))}
      {few && (
        <div className="flex items-center">
          <div className="relative h-3 min-w-0 flex-1">
            {rule.nearMisses
              .filter(({ row }) => row >= first && row <= last)
              .slice(0, 400)
              .map(({ row }) => (
                <span
                  key={row}
                  style={{ left: `${x(row) / 10}%` }}
                  className={`absolute top-0.5 size-2 -translate-x-1/2 rounded-full border border-ink ${row === selected ? "bg-ink" : ""}`}
                />
              ))}
          </div>
          <span style={{ width: gutter }} />
        </div>
      )}
      <ol className="flex flex-wrap gap-x-4 text-xs text-ink-soft">
        {rule.texts.map((text, k) => (
          <li key={k}>
            {k + 1} {textInWords(text, settings)}
          </li>
        ))}
      </ol>
    </div>
  );
}

/** Stretches of rows on which a column says yes; with many rows in view neighbours are joined. */
function stretches(column: Uint8Array, first: number, last: number, each: boolean): [number, number][] {
  const out: [number, number][] = [];
  for (let row = first; row <= last; row++) {
    if (column[row] !== 1) continue;
    const before = out.at(-1);
    if (!each && before !== undefined && before[1] === row - 1) before[1] = row;
    else out.push([row, row]);
  }
  return out;
}
