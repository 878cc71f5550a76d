/** Canyon's own mark: layers of stone with the river between them. */
export function Mark({ size = 24 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden>
      <rect x="0" y="1" width="7" height="5" fill="var(--ochre)" />
      <rect x="17" y="1" width="7" height="5" fill="var(--ochre)" />
      <rect x="0" y="7" width="9" height="5" fill="var(--clay)" />
      <rect x="15" y="7" width="9" height="5" fill="var(--clay)" />
      <rect x="0" y="13" width="11" height="5" fill="var(--plum)" />
      <rect x="13" y="13" width="11" height="5" fill="var(--plum)" />
      <rect x="0" y="19" width="24" height="4" fill="var(--river)" />
    </svg>
  );
}
