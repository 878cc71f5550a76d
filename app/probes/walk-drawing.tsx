import { useMemo } from "react";
import type { Drawing } from "#core/probes";
import { EquityChart, type Curve } from "~/charts/equity-chart";
import { decimal, signedMoney } from "~/design/format";

const DAY = 86_400_000;
const WIDTH = 700;
const LABEL = 92;
const ROW = 17;

interface Props {
  drawing: Extract<Drawing, { kind: "walk" }>;
  capital: number;
  currency: string;
  fileName: string;
}

const shown = (value: number | boolean): string => (typeof value === "boolean" ? (value ? "yes" : "no") : String(Number(value.toFixed(4))));

/** A walk-forward: its stitched curve against the version without refits, the windows on a time line, and what each fit chose. */
export function WalkDrawing({ drawing, capital, currency, fileName }: Props) {
  const { stitched, fixed, windows, names, steadiness, nextRefit, next } = drawing;
  const times = useMemo(() => Float64Array.from(stitched.dates, (date) => date * DAY), [stitched]);
  const curves = useMemo<Curve[]>(() => {
    let k = -1;
    const held = stitched.dates.map((date) => {
      while (k + 1 < fixed.dates.length && fixed.dates[k + 1] <= date) k++;
      return k < 0 ? null : fixed.equity[k];
    });
    return [
      { name: "refitted along the way", values: stitched.equity, role: "main" },
      { name: "the version as it stands", values: held, role: "second" },
    ];
  }, [stitched, fixed]);
  return (
    <>
      <h3 className="mb-1 font-semibold">The stitched curve, each window traded with values fitted on what came before</h3>
      <EquityChart times={times} curves={curves} capital={capital} currency={currency} height={250} fileName={fileName} />
      <h3 className="mt-3 mb-1 font-semibold">Windows on a time line, and what each fit chose</h3>
      <TimeLine windows={windows} names={names} />
      <div className="mt-2 overflow-x-auto">
        <table aria-label="Windows" className="w-full border-collapse text-sm">
          <thead className="text-ink-soft">
            <tr>
              {["fitted on", "judged on", ...names, "in-sample", "out-of-sample"].map((head, k) => (
                <th key={head} scope="col" className={`font-normal ${k < 2 ? "text-left" : "pl-2 text-right"}`}>
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody className="figure-text">
            {windows.map((window) => (
              <tr key={window.judge.from} className="border-t border-edge/60">
                <td className="whitespace-nowrap">
                  {window.fit.from} – {window.fit.to}
                </td>
                <td className="pl-3 whitespace-nowrap">
                  {window.judge.from} – {window.judge.to}
                </td>
                {names.map((name) => (
                  <td key={name} className="pl-2 text-right">
                    {window.values === null ? "–" : shown(window.values[name])}
                  </td>
                ))}
                <td className="pl-2 text-right">{signedMoney(window.in)}</td>
                <td className={`pl-2 text-right font-semibold ${window.out < 0 ? "text-clay" : ""}`}>{signedMoney(window.out)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-2">
        Steadiness of the values:{" "}
        {Object.entries(steadiness)
          .map(([name, value]) => `${name} ${decimal(100 * value, 0)} %`)
          .join(", ")}
        . The next fit is due on <span className="figure-text">{nextRefit}</span>
        {next !== null && (
          <>
            ; today it would take{" "}
            <span className="figure-text" data-next={JSON.stringify(next)}>
              {Object.entries(next)
                .map(([name, value]) => `${name} ${shown(value)}`)
                .join(", ")}
            </span>
          </>
        )}
        .
      </p>
    </>
  );
}

/** The windows drawn to scale: what they were fitted on, what they were judged on, and each name's value as a small line. */
function TimeLine({ windows, names }: Pick<Props["drawing"], "windows" | "names">) {
  const first = Date.parse(windows[0].fit.from);
  const last = Date.parse(windows[windows.length - 1].judge.to);
  const x = (date: string) => LABEL + ((WIDTH - LABEL) * (Date.parse(date) - first)) / Math.max(1, last - first);
  const values = names.map((name) => windows.map((window) => (window.values === null ? null : Number(window.values[name]))));
  const step = Math.max(4, Math.min(9, 120 / windows.length));
  const top = windows.length * step + 8;
  const height = top + names.length * (ROW + 8) + 4;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      className="w-full"
      role="img"
      aria-label={`${windows.length} windows from ${windows[0].fit.from} to ${windows[windows.length - 1].judge.to}`}
    >
      {windows.map((window, k) => (
        <g key={window.judge.from}>
          <rect
            x={x(window.fit.from)}
            y={k * step + 1}
            width={Math.max(1, x(window.fit.to) - x(window.fit.from))}
            height={step - 2}
            fill="var(--tint-in)"
            stroke="var(--edge)"
            strokeWidth="0.6"
          />
          <rect
            x={x(window.judge.from)}
            y={k * step + 1}
            width={Math.max(1, x(window.judge.to) - x(window.judge.from))}
            height={step - 2}
            fill={window.out > 0 ? "var(--river)" : "var(--clay)"}
          />
        </g>
      ))}
      <text x={0} y={step + 6} fontSize="11" fill="var(--ink-soft)">
        fit, then judged
      </text>
      {names.map((name, n) => {
        const base = top + n * (ROW + 8);
        const known = values[n].filter((value) => value !== null);
        const [low, high] = [Math.min(...known), Math.max(...known)];
        const y = (value: number) => base + ROW - 2 - ((ROW - 4) * (value - low)) / Math.max(1e-12, high - low);
        const path = windows
          .map((window, k) => {
            const value = values[n][k];
            return value === null
              ? ""
              : `${k === 0 || values[n][k - 1] === null ? "M" : "L"}${x(window.judge.from).toFixed(1)},${y(value).toFixed(1)} H${x(window.judge.to).toFixed(1)}`;
          })
          .join(" ");
        return (
          <g key={name}>
            <text x={0} y={base + ROW - 3} fontSize="11" fill="var(--ink-soft)">
              {name}
            </text>
            <path d={path} fill="none" stroke="var(--ink)" strokeWidth="1.2" />
          </g>
        );
      })}
    </svg>
  );
}
