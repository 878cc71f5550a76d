import type { SentLine } from "#server/lines";
import type { Line } from "./lines-chart";

/** A line that the server thinned, under another name if one is given. */
export const lineFrom = ({ name, time, value }: SentLine, other = name): Line => ({ name: other, time, value });
