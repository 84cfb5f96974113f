/**
 * Number types of the portable subset: files in `optics/` and `scene/layout.ts`
 * are compiled twice, by TypeScript (where every number is a double) and by
 * AssemblyScript into the kernel (where these are machine types).
 */
declare type f64 = number;
declare type i32 = number;
