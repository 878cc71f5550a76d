import { expect, it } from "vitest";
import { warmUp } from "./warm-up";

it("the warm-up's own strategy compiles and runs", () => {
  expect(() => warmUp()).not.toThrow();
});
