import { benchRays } from "./rays";
const r = await benchRays();
console.log(r);
