import { NavLink } from "react-router";

/** The way between the pages of one thing: `base` and what each page adds to it. */
export function PartsNav({ label, base, parts }: { label: string; base: string; parts: readonly (readonly [to: string, name: string])[] }) {
  return (
    <nav aria-label={label} className="mb-3 flex flex-wrap gap-5 border-b border-edge">
      {parts.map(([to, name]) => (
        <NavLink
          key={name}
          end
          to={`${base}${to}`}
          className={({ isActive }) =>
            `-mb-px border-b-2 pb-1.5 no-underline ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-soft hover:text-ink"}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
