import type { Parameter } from "#core/documents";
import { RangeSlider } from "~/design/range-slider";
import { axisCount, startAxis, type AxisState } from "./setup-state";

interface Props {
  parameters: readonly Parameter[];
  axes: readonly AxisState[];
  onChange: (axes: AxisState[]) => void;
}

const INPUT = "figure-text w-full rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 disabled:opacity-50 aria-invalid:border-clay";

const number = (text: string): number => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));

/** What varies: per parameter fixed or varied, a range that is drawn beside its scale, or values one by one. */
export function AxisTable({ parameters, axes, onChange }: Props) {
  const set = (i: number, change: Partial<AxisState>) => onChange(axes.map((axis, k) => (k === i ? { ...axis, ...change } : axis)));
  if (axes.length === 0) return <p className="text-ink-soft">This version has no number to vary. Give it a parameter first.</p>;
  return (
    <table className="w-full border-collapse">
      <thead className="text-sm text-ink-soft">
        <tr>
          <th scope="col" className="text-left font-normal">
            parameter
          </th>
          {["now", "from", "to", "step", "values"].map((head) => (
            <th key={head} scope="col" className="pl-2 text-right font-normal">
              {head}
            </th>
          ))}
          <th scope="col">
            <span className="sr-only">range or list</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {axes.map((axis, i) => {
          const invalid = (axis.varied && axisCount(axis) === null) || undefined;
          const input = (key: "from" | "to" | "step") => (
            <td className="w-20 py-1 pl-2">
              <input
                aria-label={`${axis.name}, ${key}`}
                value={axis[key]}
                inputMode="decimal"
                disabled={!axis.varied}
                aria-invalid={invalid}
                onChange={(event) => set(i, { [key]: event.target.value })}
                className={`${INPUT} text-right`}
              />
            </td>
          );
          return (
            <tr key={axis.name} className="border-t border-edge/60">
              <td className="py-1">
                <label className="inline-flex items-center gap-2">
                  <input type="checkbox" checked={axis.varied} onChange={(event) => set(i, { varied: event.target.checked })} />
                  <span className="figure-text">{axis.name}</span>
                </label>
                {axis.list === null && <AxisScale axis={axis} parameter={parameters[i]} onChange={(change) => set(i, change)} />}
              </td>
              <td className="figure-text pl-2 text-right text-ink-soft">{said(parameters[i].value)}</td>
              {axis.list === null ? (
                <>
                  {input("from")}
                  {input("to")}
                  {input("step")}
                </>
              ) : (
                <td colSpan={3} className="py-1 pl-2">
                  <input
                    aria-label={`${axis.name}, values`}
                    value={axis.list}
                    disabled={!axis.varied}
                    aria-invalid={invalid}
                    onChange={(event) => set(i, { list: event.target.value })}
                    className={INPUT}
                  />
                </td>
              )}
              <td className="figure-text pl-2 text-right">{axis.varied ? (axisCount(axis) ?? "–") : "1"}</td>
              <td className="pl-2 text-sm">
                {axis.kind !== "yesNo" && axis.varied && (
                  <button
                    type="button"
                    className="quiet-link"
                    aria-label={`${axis.name}: ${axis.list === null ? "a list of values" : "a range"}`}
                    onClick={() => set(i, { list: axis.list === null ? `${axis.from} ${axis.to}` : null })}
                  >
                    {axis.list === null ? "list" : "range"}
                  </button>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const said = (value: Parameter["value"]): string => (value === true ? "yes" : value === false ? "no" : String(value));

/** The range on the parameter's own scale, with the value that the version has. */
function AxisScale({
  axis,
  parameter,
  onChange,
}: {
  axis: AxisState;
  parameter: Parameter;
  onChange: (change: Partial<AxisState>) => void;
}) {
  const [from, to, step] = [number(axis.from), number(axis.to), number(axis.step)];
  const start = startAxis(parameter, true);
  const value = Number(parameter.value);
  if (![from, to, step].every(Number.isFinite) || step <= 0 || from > to) return null;
  const min = Math.min(number(start.from), from, value);
  const max = Math.max(number(start.to), to, value);
  const digits = Math.max(0, ...[axis.from, axis.step].map((text) => (text.split(/[.,]/)[1] ?? "").length));
  const text = (x: number) => String(Number(x.toFixed(digits)));
  return (
    <RangeSlider
      label={axis.name}
      from={from}
      to={to}
      min={min}
      max={max}
      step={step}
      mark={value}
      disabled={!axis.varied}
      onChange={(low, high) => onChange({ ...(low === from ? {} : { from: text(low) }), ...(high === to ? {} : { to: text(high) }) })}
    />
  );
}
