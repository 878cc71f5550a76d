import type { Funnel } from "#server/cascades";

/** Stage by stage: how many entered, how many came out, and which criterion stopped the others. */
export function FunnelTable({ funnel }: { funnel: readonly Funnel[] }) {
  const most = Math.max(1, ...funnel.map(({ entered }) => entered));
  return (
    <table aria-label="Stages" className="w-full border-collapse">
      <thead className="text-sm text-ink-soft">
        <tr>
          {["stage", "entered", "came out", "", "what stopped the others"].map((head, k) => (
            <th key={k} scope="col" className={`px-2 py-1 font-normal ${k === 1 || k === 2 ? "text-right" : "text-left"}`}>
              {head || <span className="sr-only">drawn</span>}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {funnel.map(({ name, entered, came, open, stoppedBy }, k) => (
          <tr key={k} className="border-t border-edge/60" data-stage={k}>
            <th scope="row" className="px-2 py-1.5 text-left font-normal">
              <span className="figure-text text-ink-soft">{k + 1}</span> {name}
            </th>
            <td className="figure-text px-2 text-right">{entered}</td>
            <td className="figure-text px-2 text-right font-semibold">
              {came}
              {open > 0 && <span className="font-normal text-ochre-ink"> +{open} at work</span>}
            </td>
            <td className="w-56 px-2">
              <span className="block h-3 border border-edge" style={{ width: `${(100 * entered) / most}%` }}>
                <span className="block h-full bg-moss" style={{ width: `${(100 * came) / Math.max(1, entered)}%` }} />
              </span>
            </td>
            <td className="px-2 text-ink-soft">
              {stoppedBy.map(({ label, count }) => `${label} (${count})`).join(", ") || (entered > 0 && open === 0 ? "nothing" : "")}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
