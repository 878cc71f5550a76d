/** What a list is made of: symbols by hand, a sector's markets, or other lists: these minus those. */
export interface ListRule {
  symbols: string[];
  /** ids of lists whose markets are in it, too */
  plus: number[];
  /** ids of lists whose markets are not */
  minus: number[];
}

/** Symbols out of a text: one a line, or parted by commas, semicolons or blanks; a header “symbol” is passed over. */
export const symbolsOf = (text: string): string[] => [
  ...new Set(
    text
      .split(/[\s,;]+/)
      .map((word) => word.replace(/^"|"$/g, ""))
      .filter((word) => word !== "" && word.toLowerCase() !== "symbol"),
  ),
];
