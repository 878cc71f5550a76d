import { Link } from "react-router";
import type { Settings } from "#core/documents";
import { settingFacts, type SavedSettings } from "#core/settings";
import { Select } from "~/design/field";
import type { Under } from "./under";

interface Props {
  all: readonly Under[];
  under: Under | null;
  /** the settings in force, to be saved under a name */
  settings: Settings | null;
  onChange: (under: Under | null) => void;
}

/** All that given run settings fix but their markets, to be saved under a name. */
function fixAll({ from, to, capital, leverage, marketLimit, ...rest }: Settings): SavedSettings {
  return {
    dates: { ...(from === null ? {} : { from }), ...(to === null ? {} : { to }) },
    capital,
    leverage,
    marketLimit: marketLimit ?? "none",
    onLackOfMargin: rest.onLackOfMargin,
    haltBelowPercent: rest.haltBelowPercent,
    costs: { of: "figures", figures: rest.costs },
    intrabar: rest.intrabar,
    fineTimeframe: rest.fineTimeframe ?? "none",
    roundToTick: rest.roundToTick,
    closeAtEnd: rest.closeAtEnd,
  };
}

/** Which saved run settings lie over those at hand, and what they fix. */
export function UnderChoice({ all, under, settings, onChange }: Props) {
  const list = under === null || all.some((one) => one.key === under.key) ? all : [under, ...all];
  return (
    <div className="mb-2 flex flex-wrap items-end gap-x-3 gap-y-1 border-b border-edge/60 pb-2">
      <Select
        label="Run settings"
        className="w-64"
        value={under?.key ?? "hand"}
        choices={[{ value: "hand", label: "as they stand below" }, ...list.map((one) => ({ value: one.key, label: one.name }))]}
        onChange={(key) => onChange(list.find((one) => one.key === key) ?? null)}
      />
      <p className="min-w-0 flex-1 pb-1 text-sm text-ink-soft">
        {under === null ? (
          settings !== null && (
            <Link className="quiet-link" to={`/run-settings/new?fix=${encodeURIComponent(JSON.stringify(fixAll(settings)))}`}>
              Save these under a name…
            </Link>
          )
        ) : (
          <>
            fixes{" "}
            {settingFacts(under.saved)
              .map(({ what, says }) => `${what}: ${says}`)
              .join("; ")}
            {under.address && (
              <>
                {" · "}
                <Link className="quiet-link" to={under.address}>
                  change
                </Link>
              </>
            )}
          </>
        )}
      </p>
    </div>
  );
}
