import { EXTRA, FUNCTIONS, POSITION, SERIES } from "#core/rules";
import { PageHead, Panel } from "~/design/panel";

export const meta = () => [{ title: "Rule notation · Canyon" }];

const FORMS: [form: string, meaning: string][] = [
  ["a and b, a or b, not a", "join conditions; not binds tightest, then and, then or"],
  ["x < y, <=, >, >=, =, !=", "compare two numbers; a missing side makes the answer no"],
  ["x from a to b", "a ≤ x ≤ b"],
  ["x crosses above y, x crosses below y", "was on the other side at the last bar where they differed"],
  ["x is rising, x is falling", "above, below its value one bar back"],
  ["p throughout 3", "yes on each of the last three bars, this one included"],
  ["p somewhere in 5", "yes on at least one of the last five bars"],
  ["x 2 back", "the value two bars ago; a parameter or (n + 1) may stand for the number"],
  ["+ − * / %", "arithmetic; % is the remainder with the sign of the first"],
  ["if(condition, a, b)", "chooses"],
  ["# to the end of the line", "a comment"],
];

/** The notation from the registry that the checker reads: it can't say anything else than what is computed. */
export default function RulesHelpPage() {
  return (
    <>
      <PageHead
        title="Rule notation"
        about="One formula gives a number or a yes/no for every bar. It reads like a sentence, and never sees tomorrow."
      />
      <div className="flex flex-col gap-3">
        <Panel title="Forms">
          <Rows rows={FORMS.map(([form, meaning]) => [form, meaning, ""])} />
        </Panel>
        <Panel title="Series">
          <Rows
            rows={[
              ...[...SERIES].map(([name, { definition }]): [string, string, string] => [name, definition, ""]),
              [`${EXTRA}("backlog")`, "An extra series of the market: the last value whose date is not after the bar's end.", ""],
            ]}
          />
        </Panel>
        <Panel title="Position" note="in the rules of a strategy only; with several entries open, the oldest one's">
          <Rows rows={[...POSITION].map(([name, { definition }]): [string, string, string] => [name, definition, ""])} />
        </Panel>
        <Panel title="Functions" note="x may be left out where it is close">
          <Rows
            rows={[...FUNCTIONS.values()].map((entry) => [
              entry.example,
              `${entry.definition}${entry.parts ? ` Parts: ${entry.parts.map((part) => `.${part}`).join(", ")}.` : ""}`,
              entry.source ?? "",
            ])}
          />
        </Panel>
      </div>
    </>
  );
}

function Rows({ rows }: { rows: [string, string, string][] }) {
  return (
    <dl className="grid grid-cols-[minmax(260px,auto)_1fr] gap-x-6">
      {rows.map(([term, meaning, source]) => (
        <div key={term} className="col-span-2 grid grid-cols-subgrid border-t border-edge/60 py-1">
          <dt className="figure-text">{term}</dt>
          <dd>
            {meaning} {source && <span className="text-ink-soft">{source}</span>}
          </dd>
        </div>
      ))}
    </dl>
  );
}
