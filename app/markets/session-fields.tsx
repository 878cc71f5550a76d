import { Field } from "~/design/field";
import type { Session } from "#core/bars";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** Reads a session out of a form; null where it says round the clock. */
export function readSession(form: FormData): Record<string, unknown> {
  const lines = (name: string) =>
    String(form.get(name) ?? "")
      .split(/[\n,;]+/)
      .map((line) => line.trim())
      .filter(Boolean);
  const holidays = lines("holidays");
  const early = lines("earlyCloses").map((line) => line.split(/[\s=]+/));
  return {
    zone: String(form.get("zone") ?? "").trim(),
    open: String(form.get("open") ?? "").trim(),
    close: String(form.get("close") ?? "").trim(),
    days: form.getAll("days").map(Number),
    ...(holidays.length > 0 ? { holidays } : {}),
    ...(early.length > 0 ? { earlyCloses: Object.fromEntries(early.map(([date, close]) => [date, close ?? ""])) } : {}),
  };
}

/** Hours, weekdays, holidays and early closes of a session. */
export function SessionFields({ session, problems }: { session: Session | null; problems: readonly { path: string; message: string }[] }) {
  const error = (path: string) => problems.find((problem) => problem.path.startsWith(path))?.message;
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2.5">
      <Field
        label="Time zone"
        name="zone"
        defaultValue={session?.zone ?? "Europe/Copenhagen"}
        error={error("session.zone")}
        hint="by its IANA name; summer and winter follow its rules"
        className="col-span-2"
      />
      <Field label="Opens" name="open" defaultValue={session?.open ?? "09:00"} figure error={error("session.open")} />
      <Field
        label="Closes"
        name="close"
        defaultValue={session?.close ?? "17:30"}
        figure
        error={error("session.close")}
        hint="not after the opening: the session crosses midnight"
      />
      <fieldset className="col-span-2">
        <legend className="text-sm text-ink-soft">Session dates</legend>
        <div className="flex gap-3">
          {DAYS.map((day, i) => (
            <label key={day} className="flex items-center gap-1">
              <input type="checkbox" name="days" value={i + 1} defaultChecked={session?.days.includes(i + 1) ?? i < 5} />
              {day}
            </label>
          ))}
        </div>
        {error("session.days") && <span className="text-xs text-clay">{error("session.days")}</span>}
      </fieldset>
      <Lines
        label="Holidays, one date a line"
        name="holidays"
        error={error("session.holidays")}
        value={(session?.holidays ?? []).join("\n")}
      />
      <Lines
        label="Early closes, date and time a line"
        name="earlyCloses"
        error={error("session.earlyCloses")}
        value={Object.entries(session?.earlyCloses ?? {})
          .map(([date, close]) => `${date} ${close}`)
          .join("\n")}
      />
    </div>
  );
}

function Lines({ label, name, value, error }: { label: string; name: string; value: string; error?: string }) {
  return (
    <label className="text-sm text-ink-soft">
      {label}
      <textarea
        name={name}
        defaultValue={value}
        rows={10}
        aria-invalid={error ? true : undefined}
        className="figure-text mt-0.5 block w-full rounded-[4px] border border-edge bg-sheet px-2 py-1 text-ink aria-invalid:border-clay"
      />
      {error && <span className="text-xs text-clay">{error}</span>}
    </label>
  );
}
