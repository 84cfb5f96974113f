// npm run demo: from a fresh checkout to a running application with the demo project.
import { prepare } from "./prepare.mjs";

prepare();
await import("./start.mjs");
