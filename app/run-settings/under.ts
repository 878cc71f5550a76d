import { READY_MADE_SETTINGS, type SavedSettings } from "#core/settings";
import type { NamedSettings } from "#server/run-settings";
import { COST_KEYS, type SettingsState } from "~/runs/settings-state";

/** Saved run settings that are laid over those at hand. `key` stands in the address: `ready.KEY`, or `ID.VERSION` of one's own. */
export interface Under {
  key: string;
  name: string;
  saved: SavedSettings;
  /** the version that a run names; null for ready-made ones */
  versionId: number | null;
  /** where they can be changed */
  address: string | null;
}

export const ofReadyMade = ({ key, name, saved }: (typeof READY_MADE_SETTINGS)[number]): Under => ({
  key: `ready.${key}`,
  name,
  saved,
  versionId: null,
  address: null,
});

export const ofNamed = ({ id, name, number, saved, versionId }: NamedSettings): Under => ({
  key: `${id}.${number}`,
  name: `${name}, version ${number}`,
  saved,
  versionId,
  address: `/run-settings/${id}`,
});

/** All that can be laid over: one's own in their newest versions, then the ready-made ones. */
export const allUnder = (own: readonly NamedSettings[]): Under[] => [...own.map(ofNamed), ...READY_MADE_SETTINGS.map(ofReadyMade)];

/** Those that an address names; `lost` where it names some that do not exist. */
export function underOf(address: string | null, laidOver: NamedSettings | null): { under: Under | null; lost: boolean } {
  if (address === null) return { under: null, lost: false };
  const ready = READY_MADE_SETTINGS.find((one) => address === `ready.${one.key}`);
  const under = ready !== undefined ? ofReadyMade(ready) : laidOver === null ? null : ofNamed(laidOver);
  return { under, lost: under === null };
}

const FIELDS: { [K in keyof SavedSettings]-?: readonly (keyof SettingsState)[] } = {
  markets: ["market", "others"],
  dates: ["from", "to"],
  capital: ["capital"],
  leverage: ["leverage"],
  marketLimit: ["marketLimit"],
  onLackOfMargin: ["onLackOfMargin"],
  haltBelowPercent: ["haltBelowPercent"],
  costs: COST_KEYS,
  intrabar: ["intrabar"],
  fineTimeframe: ["fineTimeframe"],
  roundToTick: ["roundToTick"],
  closeAtEnd: ["closeAtEnd"],
};

/** The fields of the form of a run that saved run settings fix. */
export const fixedFields = (saved: SavedSettings): Set<keyof SettingsState> =>
  new Set((Object.keys(saved) as (keyof SavedSettings)[]).filter((key) => saved[key] !== undefined).flatMap((key) => FIELDS[key]));
