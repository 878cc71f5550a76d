import { CSV_COLUMNS, type CsvFormat } from "#core/bars";
import { Field, Select } from "~/design/field";

const DELIMITER_NAMES = [
  { value: ",", label: "comma" },
  { value: ";", label: "semicolon" },
  { value: "\t", label: "tab" },
  { value: "|", label: "bar |" },
];
const TIME_NAMES = [
  { value: "iso", label: "2024-03-31, ISO 8601" },
  { value: "compact", label: "20240331" },
  { value: "dayFirst", label: "31/03/2024, day first" },
  { value: "monthFirst", label: "03/31/2024, month first" },
  { value: "seconds", label: "epoch seconds" },
  { value: "milliseconds", label: "epoch milliseconds" },
];

/** Every guess about a file, to be adjusted. */
export function FormatFields({
  format,
  names,
  onChange,
}: {
  format: CsvFormat;
  names: readonly string[];
  onChange: (format: CsvFormat) => void;
}) {
  const set = (part: Partial<CsvFormat>) => onChange({ ...format, ...part });
  const columns = [
    { value: "none", label: "none" },
    ...names.map((name, i) => ({ value: String(i), label: name === "" ? `column ${i + 1}` : name })),
  ];
  return (
    <div className="grid grid-cols-4 gap-x-3 gap-y-2">
      <Select label="Delimiter" value={format.delimiter} choices={DELIMITER_NAMES} onChange={(delimiter) => set({ delimiter })} />
      <Select
        label="Decimals"
        value={format.decimal}
        choices={[
          { value: ".", label: "point, 1.5" },
          { value: ",", label: "comma, 1,5" },
        ]}
        onChange={(decimal) => set({ decimal: decimal as CsvFormat["decimal"] })}
      />
      <Select label="Dates" value={format.time} choices={TIME_NAMES} onChange={(time) => set({ time: time as CsvFormat["time"] })} />
      <Select
        label="First line"
        value={format.header ? "names" : "bars"}
        choices={[
          { value: "names", label: "names the columns" },
          { value: "bars", label: "is a bar already" },
        ]}
        onChange={(first) => set({ header: first === "names" })}
      />
      <Field label="Time zone" value={format.zone} onChange={(event) => set({ zone: event.target.value })} list="zones" />
      <Select
        label="A time is the bar's"
        value={format.stamp}
        choices={[
          { value: "start", label: "start" },
          { value: "end", label: "end" },
        ]}
        onChange={(stamp) => set({ stamp: stamp as CsvFormat["stamp"] })}
      />
      <Field label="Timeframe" value={format.timeframe} onChange={(event) => set({ timeframe: event.target.value })} figure />
      <Select
        label="Order"
        value={format.newestFirst ? "newest" : "oldest"}
        choices={[
          { value: "oldest", label: "oldest first" },
          { value: "newest", label: "newest first" },
        ]}
        onChange={(order) => set({ newestFirst: order === "newest" })}
      />
      {CSV_COLUMNS.map((name) => (
        <Select
          key={name}
          label={`Column of ${name}`}
          value={format.columns[name] === null ? "none" : String(format.columns[name])}
          choices={columns}
          onChange={(place) => set({ columns: { ...format.columns, [name]: place === "none" ? null : Number(place) } })}
        />
      ))}
      <datalist id="zones">
        {["UTC", "Europe/Copenhagen", "Europe/London", "America/New_York", "America/Chicago", "Asia/Tokyo", "Australia/Sydney"].map(
          (zone) => (
            <option key={zone} value={zone} />
          ),
        )}
      </datalist>
    </div>
  );
}
