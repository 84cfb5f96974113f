/** Which object and material of the document a triangle is of. */
import { INSTANCE_OBJECT, PART_BITS, P_TRIANGLES, TRIANGLE_PART, TRIANGLE_SIZE } from "../../layout/layout";
import { paramAddress } from "./state";

/** Object that a triangle belongs to: that of its instance, where it has one. */
export function objectOf(triangle: i32, instance: usize): i32 {
  return instance != 0
    ? load<i32>(instance, INSTANCE_OBJECT)
    : <i32>(load<u32>(paramAddress(P_TRIANGLES) + <usize>triangle * TRIANGLE_SIZE, TRIANGLE_PART) >> PART_BITS);
}

/** Number of a triangle's material. */
export function materialNumber(triangle: i32): i32 {
  return <i32>(load<u32>(paramAddress(P_TRIANGLES) + <usize>triangle * TRIANGLE_SIZE, TRIANGLE_PART) & ((1 << PART_BITS) - 1));
}
