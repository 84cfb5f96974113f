import { expect, it } from "vitest";
import { apart } from "./labels";

it("leaves out a word that would lie on one before it, and what has no place", () => {
  // the second lies on the first; the fourth is clear of both that stand, since the second does not
  const at = [[100, 40], [110, 46], null, [110, 52], [140, 40]] as const;
  expect(apart(at)).toEqual([true, false, false, true, true]);
});
