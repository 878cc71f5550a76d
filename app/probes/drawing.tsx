import { useMemo } from "react";
import type { Drawing } from "#core/probes";
import { EquityChart, type Curve, type Stretch } from "~/charts/equity-chart";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { SpreadChart } from "~/charts/spread-chart";
import { decimal, metricLabel, metricText } from "~/design/format";
import { MapDrawing } from "./map-drawing";
import { WalkDrawing } from "./walk-drawing";

const DAY = 86_400_000;

interface Props<K extends Drawing["kind"]> {
  drawing: Extract<Drawing, { kind: K }>;
  capital: number;
  currency: string;
  fileName: string;
}

/** What a probe found, drawn. `cellHref` leads from a map's cell to its walk-forward. */
export function ProbeDrawing({
  drawing,
  onCell,
  ...rest
}: Props<Drawing["kind"]> & { onCell?: (windows: number, outShare: number) => void }) {
  switch (drawing.kind) {
    case "curves":
      return <Curves drawing={drawing} {...rest} />;
    case "spread":
      return <Spread drawing={drawing} {...rest} />;
    case "ladder":
      return <Ladder drawing={drawing} {...rest} />;
    case "fan":
      return <Fan drawing={drawing} {...rest} />;
    case "confidence":
      return <Confidence drawing={drawing} {...rest} />;
    case "walk":
      return <WalkDrawing drawing={drawing} {...rest} />;
    case "map":
      return <MapDrawing drawing={drawing} onCell={onCell} />;
  }
}

const Heading = ({ children }: { children: string }) => <h3 className="mt-3 mb-1 font-semibold first:mt-0">{children}</h3>;

function Curves({ drawing, capital, currency, fileName }: Props<"curves">) {
  const { title, dates, curves: drawn, stretches: given } = drawing;
  const times = useMemo(() => Float64Array.from(dates, (date) => date * DAY), [dates]);
  const curves = useMemo<Curve[]>(
    () => drawn.map(({ name, values, role }, k) => ({ name, values, role: role === "member" && k === 1 ? ("second" as const) : role })),
    [drawn],
  );
  const stretches = useMemo<Stretch[]>(
    () =>
      given.map(({ name, from, to, tint }) => ({ name, from: Date.parse(from), to: Date.parse(to), tint: tint ? "in-sample" : "none" })),
    [given],
  );
  return (
    <>
      <Heading>{title}</Heading>
      <EquityChart
        times={times}
        curves={curves}
        capital={capital}
        currency={currency}
        stretches={stretches}
        height={280}
        fileName={fileName}
      />
    </>
  );
}

function Spread({ drawing, currency, fileName }: Props<"spread">) {
  const { title, metric, unit, values, marks } = drawing;
  const label = metric === null ? title : metricLabel(metric, currency);
  return (
    <>
      <Heading>{title}</Heading>
      {values.length === 0 ? (
        <p className="text-ink-soft">No run has a value.</p>
      ) : (
        <SpreadChart
          label={label}
          values={values}
          marks={marks}
          digits={unit === "money" || unit === "count" ? 0 : unit === "percent" ? 1 : 2}
          fileName={fileName}
        />
      )}
    </>
  );
}

function Ladder({ drawing, fileName }: Props<"ladder">) {
  const { title, across, up, x, y, marks } = drawing;
  const lines = useMemo<Line[]>(() => [{ name: up, time: x, value: y }], [up, x, y]);
  return (
    <>
      <Heading>{title}</Heading>
      <LinesChart label={title} lines={lines} height={240} fileName={fileName} numbered={across} />
      <p className="mt-1 text-sm text-ink-soft">{marks.map(({ name, at }) => `${name} at ${decimal(at, 2)}`).join(" · ")}</p>
    </>
  );
}

function Fan({ drawing, fileName }: Props<"fan">) {
  const { title, across, x, bands, real } = drawing;
  const lines = useMemo<Line[]>(
    () => [
      { name: "as it was", time: x, value: real },
      ...[...bands].reverse().map(({ percent, values }) => ({
        name: percent === 50 ? "the middle one" : `${percent} of 100 stay below`,
        time: x,
        value: values,
      })),
    ],
    [x, bands, real],
  );
  return (
    <>
      <Heading>{`${title}: growth, %`}</Heading>
      <LinesChart label={title} lines={lines} height={260} fileName={fileName} numbered={across} />
    </>
  );
}

function Confidence({ drawing, currency }: Props<"confidence">) {
  const { runs, percents, rows } = drawing;
  return (
    <>
      <Heading>{`What so many of the ${decimal(runs, 0)} runs reach`}</Heading>
      <table aria-label="Confidence" className="w-full border-collapse">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th scope="col" className="text-left font-normal">
              figure
            </th>
            <th scope="col" className="border-x border-ink-faint px-2 text-right font-semibold text-ink">
              the version
            </th>
            {percents.map((percent) => (
              <th key={percent} scope="col" className="pl-2 text-right font-normal">
                {percent} %
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ metric, real, values }) => (
            <tr key={metric} className="border-t border-edge/60">
              <th scope="row" className="py-[2px] text-left font-normal">
                {metricLabel(metric, currency)}
              </th>
              <td className="figure-text border-x border-ink-faint px-2 text-right font-semibold">{metricText(metric, real)}</td>
              {values.map((value, k) => (
                <td key={percents[k]} className="figure-text pl-2 text-right">
                  {metricText(metric, value)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
