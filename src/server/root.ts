/** Folder of the application; commands set it, the working directory serves in development. */
export const root = (): string => process.env.FUMARIUM_ROOT ?? process.cwd();
