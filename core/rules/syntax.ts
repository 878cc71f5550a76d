/** A formula as a tree. Every node knows its stretch of the text. */
interface Place {
  from: number;
  to: number;
}

export type ArithmeticOperator = "+" | "-" | "*" | "/" | "%";
export type CompareOperator = "<" | "<=" | ">" | ">=" | "=" | "!=";

export type Syntax = Place &
  (
    | { type: "number"; value: number }
    | { type: "clock"; text: string }
    | { type: "name"; name: string }
    | { type: "call"; name: string; nameTo: number; args: Syntax[] }
    | { type: "if"; args: Syntax[] }
    | { type: "string"; text: string }
    | { type: "minus"; x: Syntax }
    | { type: "arithmetic"; operator: ArithmeticOperator; x: Syntax; y: Syntax }
    | { type: "compare"; operator: CompareOperator; x: Syntax; y: Syntax }
    | { type: "fromTo"; x: Syntax; low: Syntax; high: Syntax }
    | { type: "crosses"; direction: "above" | "below"; x: Syntax; y: Syntax }
    | { type: "moves"; motion: "rising" | "falling"; x: Syntax }
    | { type: "throughout" | "somewhere"; x: Syntax; count: Syntax }
    | { type: "not"; x: Syntax }
    | { type: "and" | "or"; x: Syntax; y: Syntax }
    | { type: "back"; x: Syntax; count: Syntax }
    | { type: "of"; x: Syntax; symbol: string; quoted: boolean }
    | { type: "on"; x: Syntax; timeframe: string; timeframeFrom: number }
    | { type: "part"; x: Syntax; part: string; partFrom: number }
  );
