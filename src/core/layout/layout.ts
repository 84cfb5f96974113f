/**
 * The buffer layout, stated once. Compiled by TypeScript (writers, readers) and by AssemblyScript (kernel), and injected into
 * the veil's shader. Every place of a record is the one before it plus that one's size, so that nothing can overlap.
 */
export * from "./memory";
export * from "./parameters";
export * from "./media";
export * from "./lights";
export * from "./geometry";
export * from "./materials";
export * from "./film";
export * from "./plate";
export * from "./kinds";
