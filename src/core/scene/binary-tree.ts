/** The tree of two children a node that is built first, before nodes are made wide. */

/** The binary tree: boxes, children (left -1: a leaf), and each leaf's part of `order`. */
export interface BinaryTree {
  box: Float32Array;
  left: Int32Array;
  right: Int32Array;
  start: Int32Array;
  count: Int32Array;
  used: number;
  /** Pairs in the order of the leaves. */
  order: Int32Array;
}
