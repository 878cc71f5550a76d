import Papa from "papaparse";

/** Hands a file to the browser's downloads. */
export function saveFile(name: string, text: string, type: string): void {
  const link = document.createElement("a");
  link.download = name;
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** Saves rows as CSV: comma, point, header line. */
export function saveCsv(name: string, head: string[], rows: (string | number)[][]): void {
  saveFile(
    `${name}.csv`,
    Papa.unparse(
      { fields: head, data: rows.map((row) => row.map((cell) => (typeof cell === "number" && Number.isNaN(cell) ? "" : cell))) },
      { newline: "\n" },
    ) + "\n",
    "text/csv",
  );
}
