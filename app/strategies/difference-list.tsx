import type { Difference } from "#core/wording";

/** What changed, each in words: before → now, added, taken out. `prose`: values are words, not formulas or figures. */
export function DifferenceList({ differences, prose = false }: { differences: readonly Difference[]; prose?: boolean }) {
  const face = prose ? "" : "figure-text";
  if (differences.length === 0) return <p className="text-ink-soft">Nothing differs.</p>;
  return (
    <ul className="list-disc pl-5">
      {differences.map(({ what, before, now }) => (
        <li key={what}>
          {what}: {before !== null && <span className={`${face} text-ink-soft`}>{before}</span>}
          {before !== null && now !== null && " → "}
          {now !== null && <span className={face}>{now}</span>}
          {before === null && <span className="text-moss-ink"> added</span>}
          {now === null && <span className="text-clay"> taken out</span>}
        </li>
      ))}
    </ul>
  );
}
