import { useMemo } from "react";
import type { Axis, Others } from "#core/optimize";
import type { TrialMap } from "#server/trials";
import { HeatMap } from "~/charts/heat-map";
import { Select } from "~/design/field";
import { metricLabel } from "~/design/format";
import { Panel } from "~/design/panel";

/** What a map shows: two names, a figure, and how it takes the other names. */
export interface MapChoice {
  x: string;
  y: string;
  key: string;
  others: Others;
}

interface Props {
  axes: readonly Axis[];
  choice: MapChoice;
  map: TrialMap;
  metrics: readonly string[];
  currency: string;
  best: number | null;
  recommended: number | null;
  own: Readonly<Record<string, number>>;
  onSet: (key: string, value: string | null) => void;
  onPick: (trial: number) => void;
}

const figureLabel = (key: string, currency: string) => (key === "fit" ? "Fit" : metricLabel(key, currency));

/** What an address asks of the map; names that do not vary are passed over. */
export function mapChoice(
  params: URLSearchParams,
  axes: readonly Axis[],
  figure: string,
  at: Readonly<Record<string, number>>,
): MapChoice | null {
  const names = axes.map(({ name }) => name);
  if (names.length < 2) return null;
  const known = (key: string, missing: string) => (names.includes(params.get(key) ?? "") ? params.get(key)! : missing);
  const x = known("mx", names[0]);
  const y = known(
    "my",
    names.find((name) => name !== x)!,
  );
  const how = names.length === 2 ? "fixed" : (params.get("others") ?? "best");
  const asked = new Map((params.get("at") ?? "").split(",").map((one) => one.split(":") as [string, string]));
  const fixed = Object.fromEntries(
    axes
      .filter(({ name }) => name !== x && name !== y)
      .map(({ name, values }) => {
        const wanted = Number(asked.get(name) ?? at[name] ?? values[0]);
        return [name, values.reduce((near, value) => (Math.abs(value - wanted) < Math.abs(near - wanted) ? value : near))];
      }),
  );
  return {
    x,
    y: y === x ? names.find((name) => name !== x)! : y,
    key: params.get("map") ?? figure,
    others: how === "median" ? { how } : how === "fixed" ? { how, at: fixed } : { how: "best" },
  };
}

/** A figure over any two of the varied names, with the plateau outlined. */
export function MapPanel({ axes, choice, map, metrics, currency, best, recommended, own, onSet, onPick }: Props) {
  const { x, y, key, others } = choice;
  const cells = useMemo(
    () => map.cells.map((cell): [number, number, number | null, number] => [cell.x, cell.y, cell.value, cell.number]),
    [map],
  );
  const plateau = useMemo(() => new Map(map.plateau), [map]);
  const names = axes.map(({ name }) => name);
  const rest = axes.filter(({ name }) => name !== x && name !== y);
  const name = (label: string, param: string, value: string) => (
    <Select
      hideLabel
      className="w-32"
      label={label}
      value={value}
      choices={names.map((one) => ({ value: one, label: one }))}
      onChange={(one) => onSet(param, one)}
    />
  );
  const fix = (changed: string, value: string) => {
    if (others.how !== "fixed") return;
    onSet(
      "at",
      Object.entries({ ...others.at, [changed]: value })
        .map(([one, at]) => `${one}:${at}`)
        .join(","),
    );
  };
  return (
    <Panel
      title={`${x} against ${y}`}
      aside={
        <Select
          hideLabel
          label="Figure on the map"
          value={key}
          choices={metrics.map((value) => ({ value, label: figureLabel(value, currency) }))}
          onChange={(value) => onSet("map", value)}
          className="w-44"
        />
      }
    >
      {names.length > 2 && (
        <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
          {name("Name along the map", "mx", x)}
          {name("Name up the map", "my", y)}
          <Select
            hideLabel
            className="w-52"
            label="The other names on the map"
            value={others.how}
            choices={[
              { value: "best", label: "the others at their best" },
              { value: "median", label: "the middle over the others" },
              { value: "fixed", label: "the others fixed" },
            ]}
            onChange={(value) => onSet("others", value)}
          />
          {others.how === "fixed" &&
            rest.map((axis) => (
              <Select
                key={axis.name}
                className="w-36"
                hideLabel
                label={`${axis.name} on the map`}
                value={String(others.at[axis.name])}
                choices={axis.values.map((value) => ({ value: String(value), label: `${axis.name} ${Number(value.toPrecision(6))}` }))}
                onChange={(value) => fix(axis.name, value)}
              />
            ))}
        </div>
      )}
      {cells.length === 0 ? (
        <p className="py-24 text-center text-ink-soft">The map fills as trials come in.</p>
      ) : (
        <>
          <HeatMap
            x={x}
            y={y}
            metric={figureLabel(key, currency)}
            cells={cells}
            best={best}
            recommended={recommended}
            plateau={plateau}
            own={{ x: own[x] ?? NaN, y: own[y] ?? NaN }}
            onPick={onPick}
            height={names.length > 2 ? 390 : 430}
          />
          <p className="mt-1 text-sm text-ink-soft">
            A click on a cell opens {others.how === "fixed" ? "its trial" : "the best of its trials"} as a backtest. Look for a region that
            does well, not for the single best cell.
          </p>
        </>
      )}
    </Panel>
  );
}
