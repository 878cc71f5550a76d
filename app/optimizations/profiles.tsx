import { useMemo } from "react";
import type { Profile } from "#core/optimize";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { decimal } from "~/design/format";
import { Panel } from "~/design/panel";

/** The fit along every varied name: its median and quartiles over all other values, and how much of its spread the name explains. */
export function Profiles({ profiles, number }: { profiles: readonly Profile[]; number: number }) {
  return (
    <Panel title="What each one does" note="the middle of the fits and their quartiles along its values, whatever the others are">
      <div className="grid gap-4">
        {profiles.map((profile) => (
          <OneProfile key={profile.name} profile={profile} number={number} />
        ))}
      </div>
    </Panel>
  );
}

const tick = (x: number): string => decimal(x, Math.abs(x) >= 100 ? 0 : 2);

function OneProfile({ profile: { name, points, importance }, number }: { profile: Profile; number: number }) {
  const lines = useMemo<Line[]>(() => {
    const time = points.map((point) => point.value);
    return [
      { name: "middle", time, value: points.map((point) => point.middle) },
      { name: "upper quartile", time, value: points.map((point) => point.high) },
      { name: "lower quartile", time, value: points.map((point) => point.low) },
    ];
  }, [points]);
  return (
    <section aria-label={`Along ${name}`}>
      <h3>
        <span className="figure-text font-semibold">{name}</span>{" "}
        <span className="text-sm text-ink-soft">
          {importance === null
            ? "explains nothing: no fit differs"
            : `explains ${decimal(100 * importance, 0)} % of the spread of the fits`}
        </span>
      </h3>
      {points.length > 1 ? (
        <LinesChart
          label={`Fit along ${name}`}
          lines={lines}
          numbered={name}
          height={150}
          fileName={`optimization-${number}-${name}`}
          tick={tick}
        />
      ) : (
        <p className="text-ink-soft">{points.length === 0 ? "No trial has a fit." : "One value only."}</p>
      )}
    </section>
  );
}
