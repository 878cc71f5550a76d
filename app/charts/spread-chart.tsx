import { useMemo } from "react";
import { histogramOf } from "#core/reading";
import { decimal } from "~/design/format";
import { ColumnsChart } from "./columns-chart";

interface Props {
  label: string;
  values: readonly number[];
  /** values that are marked, the columns that they fall in outlined */
  marks: readonly { name: string; value: number }[];
  digits: number;
  height?: number;
  fileName: string;
}

/** How a figure is spread over many runs: columns of a histogram, with where the marked values lie among them. */
export function SpreadChart({ label, values, marks, digits, height = 190, fileName }: Props) {
  const { names, counts, marked } = useMemo(() => {
    const bins = histogramOf([...values, ...marks.map((mark) => mark.value)]);
    const of = (value: number) =>
      Math.max(
        0,
        bins.findIndex((bin, k) => value < bin.to || k === bins.length - 1),
      );
    const counts = bins.map(() => 0);
    for (const value of values) counts[of(value)]++;
    return {
      names: bins.map((bin) => decimal((bin.from + bin.to) / 2, digits)),
      counts,
      marked: new Set(marks.map((mark) => of(mark.value))),
    };
  }, [values, marks, digits]);
  const below = (value: number) => (100 * values.filter((one) => one < value).length) / values.length;
  return (
    <>
      <ColumnsChart label={label} names={names} values={counts} marked={marked} height={height} fileName={fileName} />
      <p className="mt-1 text-sm text-ink-soft">
        {marks.map(({ name, value }) => `${name}: ${decimal(value, digits)}, above ${decimal(below(value), 0)} % of them`).join(" · ")}
      </p>
    </>
  );
}
