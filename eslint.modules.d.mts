export declare const MODULES: Readonly<Record<string, readonly string[]>>;
export declare const CORE_FLOORS: Readonly<Record<string, readonly string[]>>;
export declare const BENCH_FLOORS: Readonly<Record<string, readonly string[]>>;
