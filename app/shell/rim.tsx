import { Moon, Search, Sun } from "lucide-react";
import { Link, NavLink, useLocation } from "react-router";
import { JobsFoot, type RunningJob } from "./jobs";
import { Mark } from "./mark";
import { PLACES, type Place } from "./places";

const isAt = (place: Place, path: string): boolean =>
  [place.to, ...(place.also ?? [])].some((start) => path === start || path.startsWith(`${start}/`));

/** The slim rim on the left: the places of the work, in four quiet groups. Narrow below 1200 pixels. */
export function Rim({
  jobs,
  onFind,
  onTheme,
  dusk,
}: {
  jobs: readonly RunningJob[];
  onFind: () => void;
  onTheme: () => void;
  dusk: boolean;
}) {
  const { pathname } = useLocation();
  return (
    <nav
      aria-label="Places"
      className="sticky top-0 flex h-screen w-[58px] shrink-0 flex-col border-r border-edge bg-gradient-to-b from-[var(--rim-top)] to-[var(--rim-foot)] min-[1200px]:w-[168px]"
    >
      <Link to="/" className="flex items-center gap-2.5 px-4.5 pt-4.5 pb-3 no-underline">
        <Mark />
        <span className="font-head text-xl font-bold max-[1199px]:sr-only">Canyon</span>
      </Link>
      {PLACES.map(({ group, places }) => (
        <div key={group} className="pt-2">
          <p className="px-4.5 pb-0.5 text-sm text-ink-soft max-[1199px]:sr-only">{group}</p>
          <ul>
            {places.map((place) => (
              <li key={place.to}>
                <NavLink
                  to={place.to}
                  title={place.name}
                  aria-current={isAt(place, pathname) ? "page" : undefined}
                  className={`flex items-center gap-3 border-l-[3px] py-[5px] pl-4 no-underline ${isAt(place, pathname) ? "border-ink bg-sheet font-semibold" : "border-transparent text-ink-soft hover:text-ink"}`}
                >
                  <place.icon size={16} aria-hidden />
                  <span className="max-[1199px]:sr-only">{place.name}</span>
                </NavLink>
              </li>
            ))}
          </ul>
        </div>
      ))}
      <div className="mt-auto flex flex-col items-start gap-0.5 px-3 pb-2 min-[1200px]:flex-row min-[1200px]:items-center">
        <button
          type="button"
          onClick={onFind}
          className="inline-flex items-center gap-2 rounded px-2 py-1 text-sm text-ink-soft hover:bg-sheet hover:text-ink"
        >
          <Search size={15} aria-hidden />
          <span className="max-[1199px]:sr-only">Find</span>
          <kbd className="figure-text text-xs max-[1199px]:sr-only">Ctrl K</kbd>
        </button>
        <button
          type="button"
          onClick={onTheme}
          className="rounded p-1.5 text-ink-soft hover:bg-sheet hover:text-ink min-[1200px]:ml-auto"
          aria-label={dusk ? "Light theme" : "Dark theme"}
          title={dusk ? "Limestone, the light theme" : "Dusk, the dark theme"}
        >
          {dusk ? <Sun size={15} aria-hidden /> : <Moon size={15} aria-hidden />}
        </button>
      </div>
      <span className="hidden min-[1200px]:block">
        <JobsFoot jobs={jobs} narrow={false} />
      </span>
      <span className="min-[1200px]:hidden">
        <JobsFoot jobs={jobs} narrow />
      </span>
    </nav>
  );
}
