import { ClipboardList, CloudSunRain, Database, Filter, FlaskConical, Grid3x3, Library, Shapes } from "lucide-react";

export interface Place {
  to: string;
  name: string;
  icon: typeof Database;
  /** other addresses that belong to the place */
  also?: string[];
}

/** The places of the work, in the order in which practitioners do it. Only those that work are shown. */
export const PLACES: readonly { group: string; places: readonly Place[] }[] = [
  { group: "Know", places: [{ to: "/markets", name: "Markets", icon: Database, also: ["/imports", "/calendars", "/lists"] }] },
  {
    group: "Make",
    places: [
      { to: "/library", name: "Library", icon: Library, also: ["/strategies", "/runs", "/definitions", "/run-settings"] },
      { to: "/optimizations", name: "Optimizations", icon: Grid3x3 },
    ],
  },
  {
    group: "Doubt",
    places: [
      { to: "/probes", name: "Probes", icon: FlaskConical },
      { to: "/cascades", name: "Cascades", icon: Filter },
    ],
  },
  {
    group: "Use",
    places: [
      { to: "/portfolios", name: "Portfolios", icon: Shapes },
      { to: "/regimes", name: "Regimes", icon: CloudSunRain },
      { to: "/orders", name: "Order sheet", icon: ClipboardList },
    ],
  },
];
