/** The fumarium command. Exit codes: 0 done, 1 failed, 2 bad input, 3 time ran out with a valid partial picture. */
import { map3 } from "#core/math/vectors";
import { sizeOf } from "#core/math/box";
import { mkdir } from "node:fs/promises";
import { availableParallelism } from "node:os";
import { STACK_ENDING } from "#core/compose/package";
import { stackJsonSchema } from "#core/compose/stack";
import { documentJsonSchema } from "#core/document/parse";
import { InputError } from "#core/errors";
import { movingText } from "#core/exchange/import/motions";
import type { NoiseReport } from "#engine/noise-sources";
import { PASS_NAMES } from "#core/film/passes";
import { moment, number, numbersOf, oneOf, options, whole } from "./arguments";
import { bakeCommand, diagnoseCommand, noiseCommand } from "./air";
import { demoCommand } from "./demo";
import { cleanCommand, strengthsOf } from "./clean";
import { beginStack, composeCommand } from "./compose";
import { importCommand } from "./import";
import { loadDocument, loadLut, loadResources } from "./load";
import { OutputError, tryOutput } from "#finals/output";
import { Ended } from "#finals/frame";
import { frameName, frameRange, framesOf } from "#finals/numbers";
import { HOME_SERVER, queueCommand, ServerError } from "./queue";
import { plateCommand, plateText } from "./plate";
import { renderCommand, type RenderReport } from "./render";
import { machinesCommand } from "./machines";
import { adviseCommand, adviseText } from "./advise";
import { budgetOf, forecastCommand, forecastText } from "./forecast";
import { PICTURE_OPTIONS, pictureAsked, renderOptions } from "./render-options";

const HELP = `fumarium: fill rendered scenes with fog, haze and light shafts

  fumarium render DOCUMENT -o OUT.exr|.png|.tif  render a scene document
  fumarium render DOCUMENT … -o FOLDER/         render several, each to an OpenEXR file of its name
      --size WxH             pixels of the picture; 30x20cm or 12x8in of a print
      --dpi N                pixels an inch of the print (default 300)
      --whole                all of the frame, whatever region the document has
      --samples N            samples per pixel
      --first-sample N       start with this sample (default 0)
      --noise PERCENT        blocks of the frame get no more samples once they err by no more than this
      --noise-of rendered|cleaned  of which picture (default: of the cleaned one with --clean)
      --level veil|shafts|full  analytic, single or multiple scattering
      --air-bounces N, --surface-bounces N  how often light goes on, at level full and on surfaces
      --split full|half|quarter  size at which the air is sampled; surfaces keep theirs, and the air is joined to them
      --estimator tracking|stepping  of broken air: without steps, or by step size
      --seed N               seed of the random numbers
      --passes LIST          of ${PASS_NAMES.join(",")};
                             lights and mattes add a layer per light group, object, material and medium
      --depth half|float|8|16  bit depth: half or float of OpenEXR (depths are always float), 8 or 16 of PNG and TIFF
      --layout layers|parts|files  how passes lie in an OpenEXR: layers of one picture, parts of one file, or a file each
                             (fog.air.exr, fog.air.0012.exr)
      --compression zip|zips|piz|none  of OpenEXR
      --mask depth:NEAR,FAR | air  a mask beside a PNG or TIFF: black near (m) to white far, or white where air hides all
      --alpha geometry|air   what its channel A covers: geometry (default), or air too
      --clean S | F,A,S | document  takes noise out: a strength from 0 to 1, or those for fireflies, air and surfaces,
                             or those that the document says;
                             a PNG or TIFF shows it cleaned, an OpenEXR gets layers beauty.clean, air.clean … beside the raw
      --finished             makes R, G, B of an OpenEXR the exposed and finished picture; other layers stay as rendered
      --halves               keeps in an OpenEXR what "fumarium clean" needs later
      --at SECONDS           time of the picture, for drifting noise and sequences
      --frames A-B|A-BxN     frames from A to B, or every Nth of them, each to a file of its own: its number stands
                             in the place of #### of the name, or before the ending (fog.0012.exr)
      --fps N                frames a second: frame 0 is the document's moment (default 24)
      --plate FILE           a picture in place of that of the scene's plate, #### for the number of a frame; its lens is
                             that which the file says, else the scene's
      --plate-depth FILE     its depth, where that is in another file
      --resume               keeps what is rendered beside the output every 30 s (FUMARIUM_CHECKPOINT_SECONDS), goes on
                             with what fits, and leaves out frames whose files are there
      --time SECONDS         stop after this time with the partial picture (exit code 3); so does Ctrl C, but with
                             --resume, where it keeps what there is
      --threads N            worker threads (default: all cores)
      --json                 print one line of JSON for each picture
      --progress             write how far each picture is to standard error, a line of JSON a second
  fumarium forecast DOCUMENT                    say what a frame will cost before it is rendered, from a short look at it
      --size, --dpi, --whole, --samples, --noise, --noise-of, --level, --air-bounces, --surface-bounces, --split,
      --estimator, --clean, --at, --frames, --fps  as of render; of several frames three are looked at
      --budget MINUTES       minutes that a frame may take (default: the document's budget; exit code 4 where it will take more)
      --look SECONDS         how long to look, about (default 10)
      --threads N            threads of the machine that renders (default: all cores of this one)
      --speed F              how many times as fast a thread of it is as one of this machine (default 1)
      --workers N            what all frames take with N such machines as workers
      --deadline MINUTES     how many such workers have all frames done in that time
      --json                 print the forecast as JSON
  fumarium advise DOCUMENT                      try what would save time on a frame, and say what it saves and changes
      --size, --dpi, --whole, --samples, --noise, --noise-of, --level, --air-bounces, --surface-bounces, --split,
      --estimator, --at      as of render
      --budget MINUTES       minutes that a frame may take (default: the document's budget; exit code 4 where it is not kept)
      --apply OUT.json       write the document with what saves most together and is hardly seen
      --seconds N            how long the trials may take, about (default 110)
      --threads N            worker threads (default: all cores)
      --json                 print the advice as JSON
  fumarium queue [ACTION RENDER …]              what a server renders in the background: list (default), pause, resume,
                                                end (with what there is), cancel, remove, first, last, files, get,
                                                before, turn, after (priority: before others, in turn, after others);
                                                a render by the beginning of its number, or by the name of its files
      --server URL           the server (default: FUMARIUM_SERVER, or ${HOME_SERVER})
      -o FOLDER              where "get" puts the files; those that lie there are left
      --json                 print lines of JSON
  fumarium machines [drain|remove NAME …]       the workers of a server: list (default), drain (end once their units are
                                                done), remove (at once)
      --server URL           the server (default: FUMARIUM_SERVER, or ${HOME_SERVER})
      --json                 print the list as JSON
  fumarium worker --redis redis://HOST:PORT     take part in what a server with the same Redis and token renders
      --name NAME            what the server calls it (default: this machine's name); each needs one of its own
      --threads N            worker threads (default: all cores)
      --token-file FILE      file with the token that server and workers share (default: FUMARIUM_TOKEN)
      --cache FOLDER         where fetched files are kept (default: ~/.cache/fumarium)
      Ctrl C finishes what is in hand; a second one leaves it to others
  fumarium clean IN.exr -o OUT.exr|.png|.tif     takes the noise out of a picture rendered with --halves
      --strengths S | F,A,S  strengths as above (default: those of its document)
      --depth half|float|8|16  bit depth, as above
      --threads N            worker threads (default: all cores)
  fumarium compose FILE.exr … -o OUT.stack.json  begins a stack of layers over OpenEXR files
  fumarium compose STACK.stack.json|.zip -o OUT.exr|.png|.tif  puts a stack together
      --frames A-B|A-BxN     of many frames: their numbers stand in the place of #### of sources and of the output
      --source NAME=FILE     a file in place of the one that the stack names; once for each
      --layers               an OpenEXR gets each layer and its mask, too
      --depth half|float|8|16  bit depth, as above
  fumarium plate PICTURE [DEPTH] [-o FOLDER]    says what a picture made elsewhere and its depth are (OpenEXR, HDR,
                                                PNG, TIFF, JPEG); writes a scene of them
      --fov DEGREES          of its lens, vertical; or --sensor MM (width) with --focal MM (default: what the file says)
      --layer NAME           of the colours of an OpenEXR (default: its main picture)
      --depth-layer NAME     of the depth (default: distance, depth or Z)
      --along axis|ray       what depth is measured along (default: ray of a layer distance, axis of all others)
      --range NEAR,FAR       what 0 and 1 stand for: of PNG and TIFF
      --inverted             white is near; without --range: numbers are one over depth
      --unit METRES          metres that a unit has (default 1)
      --sky UNITS            depth from which on nothing is there
      --height METRES        what the lens is known to stand over the ground: the unit follows
      --horizon X,Y,X,Y      two points of the horizon, shares of the frame from its upper left, in place of the ground's
      --across N             places across of the surface in the way of light (default 640)
      --json                 print the report as JSON
  fumarium import FILE|FOLDER|ZIP … -o FOLDER   import a set (glTF, OBJ or OpenUSD with its files);
                                                writes a scene document and its model
      --scale N              metres per unit of the file (default 1)
      --up y|z               up axis of the file (default y)
      --animation NAME|NUMBER  animation to stand still at a moment of (default: the pose of the file)
      --at SECONDS           that moment (default 0)
  fumarium diagnose DOCUMENT                    measure the frame and report problems of its air
      -o OUT.json            write the document with all remedies applied
      --noise                measure where the noise comes from instead, and which remedies are worth their time
      --threads N            worker threads (default: all cores)
      --json                 print the findings as JSON
  fumarium bake DOCUMENT -o OUT.vdb             write one medium's density as OpenVDB
      --medium NAME|NUMBER   which medium (default 1)
      --across N             voxels along its longest side, 8 to 256 (default 128)
      --at SECONDS           time, for drifting noise and sequences
  fumarium check DOCUMENT                       validate a document and its assets
  fumarium schema [stack]                       print the JSON Schema of scene documents, or of stacks
  fumarium demo --list | --write DIR            list the demo scenes, or write them to a folder

Exit codes: 0 done, 1 failed, 2 bad input, 3 time ran out with a valid partial picture,
4 a forecast is above its budget.`;

/** Verbs that the help describes. */
const VERBS = new Set([...HELP.matchAll(/^ {2}fumarium (\w+) /gm)].map((m) => m[1]));

/** The one document that a verb works on. @throws InputError where none or several are named */
function oneDocument(verb: string, names: readonly string[]): string {
  const [name, ...others] = names;
  if (name === undefined || others.length > 0) throw new InputError(`${verb}: name one document`);
  return name;
}

/** One line of figures, or the report as JSON. */
function printReport(report: RenderReport, json: boolean): void {
  const measured = report.noise === null ? "not measured" : `${(100 * report.noise).toFixed(2)} %`;
  const noise = report.cleanedNoise === null ? measured : `${measured}, cleaned ${(100 * report.cleanedNoise).toFixed(2)} %`;
  const short = report.outcome === "time" ? " (time ran out)" : "";
  console.log(
    json ? JSON.stringify(report) : `${report.output}: ${report.samples} samples per pixel in ${report.seconds} s, noise ${noise}${short}`,
  );
}

/** Sources of noise by their shares, then remedies by their gains. */
function printNoise({ sources, remedies }: NoiseReport): void {
  if (sources.length === 0) console.log("this frame has no noise to speak of");
  for (const s of sources)
    console.log(
      `${(100 * s.share).toFixed(0).padStart(3)} %  ${s.light}, ${s.side === "air" ? "in the air" : `on surfaces${s.material ? `, most on ${s.material}` : ""}`}`,
    );
  for (const r of remedies) console.log(`${r.words}: ${r.gain.toFixed(1)} times less noise² for the time`);
}

/** Lines of the help that are about a verb. */
function helpOf(verb: string): string {
  const lines = HELP.split("\n");
  const own = lines.filter((line, i) => {
    const head = lines.slice(0, i + 1).findLast((l) => l.startsWith("  fumarium "));
    return head?.startsWith(`  fumarium ${verb} `) && line.startsWith("  ");
  });
  return [...own, "", lines.at(-1)].join("\n");
}

/** Where progress goes: a line of its own on a terminal, nowhere else. */
function progressOf(): ((line: string) => void) | undefined {
  return process.stderr.isTTY ? (line) => process.stderr.write(`\r\x1b[K${line}`) : undefined;
}

/** Runs the command. @returns its exit code */
export async function main(args: string[], buildDirectory: string): Promise<number> {
  const [command, ...rest] = args;
  try {
    if (command !== undefined && VERBS.has(command) && rest.some((a) => a === "--help" || a === "-h")) {
      console.log(helpOf(command));
      return 0;
    }
    switch (command) {
      case "render": {
        const all = renderOptions(rest, buildDirectory);
        const progress = progressOf();
        let code = 0;
        const folder = all[0]?.folder;
        if (folder) await mkdir(folder, { recursive: true }).catch(() => undefined);
        // all of them are tried before the first takes its hours
        for (const { output, frames } of all) {
          await tryOutput(frames ? frameName(output, frames.range.to) : output);
        }
        for (const [i, o] of all.entries()) {
          if (progress) o.progress = all.length > 1 ? (line) => progress(`${i + 1} of ${all.length}: ${line}`) : progress;
          await renderCommand(o, (report) => {
            progress?.("");
            printReport(report, o.json);
            if (report.outcome === "time") code = 3;
          });
        }
        return code;
      }
      case "forecast": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          ...PICTURE_OPTIONS,
          ...{ budget: text, look: text, speed: text, workers: text, deadline: text },
          json: { type: "boolean" },
        });
        const document = oneDocument("forecast", positionals);
        const budget = budgetOf(v.budget);
        const look = number(v.look, "look", "a number of seconds from 1 to 3600", (n) => n >= 1 && n <= 3600) ?? 10;
        const speed = number(v.speed, "speed", "a number above 0", (n) => n > 0 && n < 1000) ?? 1;
        const workers = whole(v.workers, "workers", 1, 100_000);
        const deadline = number(v.deadline, "deadline", "minutes, above 0", (n) => n > 0 && n < 1e7);
        const asked = pictureAsked(v);
        const clean = v.clean === undefined ? undefined : v.clean === "document" ? ("document" as const) : strengthsOf(v.clean, "clean");
        const progress = progressOf();
        const report = await forecastCommand({
          ...{ document, buildDirectory, look, speed, ...asked, threads: asked.threads ?? availableParallelism() },
          ...(clean ? { clean } : {}),
          ...(budget !== undefined ? { budget } : {}),
          ...(workers !== undefined ? { workers } : {}),
          ...(deadline !== undefined ? { deadline: 60 * deadline } : {}),
          ...(progress ? { progress } : {}),
        });
        progress?.("");
        if (v.json) console.log(JSON.stringify(report));
        else for (const line of forecastText(report)) console.log(line);
        return report.budget?.kept === "no" ? 4 : 0;
      }
      case "advise": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          ...PICTURE_OPTIONS,
          budget: text,
          apply: text,
          seconds: text,
          json: { type: "boolean" },
        });
        const document = oneDocument("advise", positionals);
        if (v.frames !== undefined || v.clean !== undefined) throw new InputError("advise: has no --frames and no --clean");
        const budget = budgetOf(v.budget);
        const seconds = number(v.seconds, "seconds", "a number of seconds from 10 to 36000", (n) => n >= 10 && n <= 36_000) ?? 110;
        const { frames: _, ...asked } = pictureAsked(v);
        const progress = progressOf();
        const report = await adviseCommand({
          ...{ document, buildDirectory, seconds, ...asked },
          ...(v.apply !== undefined ? { apply: v.apply } : {}),
          ...(budget !== undefined ? { budget } : {}),
          ...(progress ? { progress } : {}),
        });
        progress?.("");
        if (v.json) console.log(JSON.stringify(report));
        else for (const line of adviseText(report)) console.log(line);
        return report.budget && !report.budget.kept ? 4 : 0;
      }
      case "queue": {
        const { values: v, positionals } = options(rest, {
          output: { type: "string", short: "o" },
          server: { type: "string" },
          json: { type: "boolean" },
        });
        const [action = "list", ...renders] = positionals;
        const server = v.server ?? process.env.FUMARIUM_SERVER ?? HOME_SERVER;
        await queueCommand(
          { server, action, renders, json: v.json ?? false, ...(v.output !== undefined ? { output: v.output } : {}) },
          (line) => console.log(line),
        );
        return 0;
      }
      case "clean": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          output: { type: "string", short: "o" },
          strengths: text,
          depth: text,
          threads: text,
        });
        const [input, ...others] = positionals;
        if (input === undefined || others.length > 0) throw new InputError("clean: name one OpenEXR file");
        if (!v.output) throw new InputError("clean: say where to write with -o OUT.exr");
        const depth = oneOf(v.depth, "depth", ["half", "float", "8", "16"] as const);
        const threads = whole(v.threads, "threads", 1, 64);
        const progress = progressOf();
        const share = (n: number | null): string => (n === null ? "not measured" : `${(100 * n).toFixed(2)} %`);
        const report = await cleanCommand({
          input,
          output: v.output,
          buildDirectory,
          ...(v.strengths !== undefined ? { strengths: strengthsOf(v.strengths, "strengths") } : {}),
          ...(depth ? { depth } : {}),
          ...(threads !== undefined ? { threads } : {}),
          ...(progress ? { progress } : {}),
        });
        progress?.("");
        console.log(`${v.output}: noise ${share(report.noise)}, cleaned ${share(report.cleanedNoise)}, in ${report.seconds.toFixed(1)} s`);
        return 0;
      }
      case "compose": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          output: { type: "string", short: "o" },
          frames: text,
          source: { type: "string", multiple: true },
          layers: { type: "boolean" },
          depth: text,
        });
        if (!v.output) throw new InputError("compose: say where to write with -o OUT.exr, .png, .tif or .stack.json");
        if (v.output.endsWith(STACK_ENDING)) {
          if (positionals.length === 0) throw new InputError("compose: name the OpenEXR files that the stack begins with");
          await beginStack(positionals, v.output);
          console.log(v.output);
          return 0;
        }
        const [stack, ...others] = positionals;
        if (stack === undefined || others.length > 0) throw new InputError("compose: name one stack (*.stack.json or a package, *.zip)");
        const sources = (v.source ?? []).map((given): [string, string] => {
          const at = given.indexOf("=");
          if (at < 1) throw new InputError(`--source ${given}: must be NAME=FILE`);
          return [given.slice(0, at), given.slice(at + 1)];
        });
        const depth = oneOf(v.depth, "depth", ["half", "float", "8", "16"] as const);
        const progress = progressOf();
        const written = await composeCommand({
          ...{ stack, output: v.output, layers: v.layers ?? false, sources: Object.fromEntries(sources) },
          frames: v.frames === undefined ? null : framesOf(frameRange(v.frames, "frames")),
          ...(depth ? { depth } : {}),
          ...(progress ? { progress } : {}),
        });
        progress?.("");
        for (const file of written) console.log(file);
        return 0;
      }
      case "plate": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          ...{ output: { type: "string", short: "o" }, fov: text, sensor: text, focal: text, layer: text, "depth-layer": text },
          ...{ along: text, range: text, inverted: { type: "boolean" }, unit: text, sky: text, height: text, horizon: text },
          ...{ across: text, json: { type: "boolean" } },
        } as const);
        const [picture, depth, ...others] = positionals;
        if (picture === undefined || others.length > 0)
          throw new InputError("plate: name a picture, and its depth where it is in another file");
        const above = (given: string | undefined, name: string): number | undefined =>
          number(given, name, "a number above 0", (n) => n > 0 && n < 1e9);
        const [sensor, focal] = [above(v.sensor, "sensor"), above(v.focal, "focal")];
        if ((sensor === undefined) !== (focal === undefined))
          throw new InputError("--sensor and --focal: one tells nothing without the other");
        const range = v.range === undefined ? undefined : numbersOf(v.range, "range", 2);
        const horizon = v.horizon === undefined ? undefined : numbersOf(v.horizon, "horizon", 4);
        const along = oneOf(v.along, "along", ["axis", "ray"] as const);
        const [unit, sky] = [above(v.unit, "unit"), above(v.sky, "sky")];
        const fieldOfView = number(v.fov, "fov", "degrees from 0.1 to 170", (n) => n >= 0.1 && n <= 170);
        const across = whole(v.across, "across", 16, 4096);
        const report = await plateCommand({
          ...{ picture, depth: depth ?? null, folder: v.output ?? null, height: above(v.height, "height") ?? null },
          sensor: sensor !== undefined && focal !== undefined ? [sensor, focal] : null,
          horizon: horizon ? (horizon as [number, number, number, number]) : null,
          said: {
            ...(v.layer !== undefined ? { layer: v.layer } : {}),
            ...(v["depth-layer"] !== undefined ? { depthLayer: v["depth-layer"] } : {}),
            ...(fieldOfView !== undefined ? { fieldOfView } : {}),
            ...(along ? { along } : {}),
            ...(range ? { range: range as [number, number] } : {}),
            ...(v.inverted ? { inverted: true } : {}),
            ...(unit !== undefined ? { unit } : {}),
            ...(sky !== undefined ? { sky } : {}),
            ...(across !== undefined ? { across } : {}),
          },
        });
        if (v.json) console.log(JSON.stringify(report));
        else for (const line of plateText(report)) console.log(line);
        return 0;
      }
      case "import": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          output: { type: "string", short: "o" },
          scale: text,
          up: text,
          animation: text,
          at: text,
        });
        if (positionals.length === 0) throw new InputError("import: name a file, a folder or a zip archive");
        if (!v.output) throw new InputError("import: say where to write with -o FOLDER");
        const scale = v.scale === undefined ? 1 : Number(v.scale);
        if (!(scale > 0 && scale < 1e6)) throw new InputError(`--scale ${v.scale}: must be a number above 0`);
        const up = oneOf(v.up, "up", ["y", "z"] as const) ?? "y";
        const time = v.at === undefined ? 0 : Number(v.at);
        if (!(time >= 0)) throw new InputError(`--at ${v.at}: must be a number of seconds, 0 or above`);
        if (v.at !== undefined && v.animation === undefined) throw new InputError("--at: say which animation with --animation");
        const animation = v.animation === undefined ? {} : { animation: { which: v.animation, time } };
        const { file, set } = await importCommand({ names: positionals, folder: v.output, scale, up, ...animation });
        const [x, y, z] = map3(sizeOf(set.bounds), (s) => Number((s * scale).toPrecision(4)));
        const count = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : /s$/.test(one) ? "es" : "s"}`;
        const { triangles, kept: stored, instances } = set.report;
        const kept = stored < triangles ? ` (${count(instances, "instance")}: ${stored} stored)` : "";
        console.log(
          `${file}: ${[count(set.report.triangles, "triangle") + kept, count(set.lenses.length, "lens"), count(set.lights.length, "light")].join(", ")}`,
        );
        console.log(`it measures ${x} × ${up === "y" ? y : z} × ${up === "y" ? z : y} m`);
        if (set.moving) console.log(movingText(set.moving));
        for (const line of set.report.left) console.log(`left out: ${line}`);
        return 0;
      }
      case "machines": {
        const { values: v, positionals } = options(rest, { server: { type: "string" }, json: { type: "boolean" } });
        const [action = "list", ...names] = positionals;
        const server = v.server ?? process.env.FUMARIUM_SERVER ?? HOME_SERVER;
        await machinesCommand({ server, action, names, json: v.json ?? false }, console.log);
        return 0;
      }
      case "worker": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, { redis: text, name: text, threads: text, "token-file": text, cache: text });
        if (positionals.length > 0) throw new InputError(`worker: ${positionals.join(" ")}: takes options only`);
        const threads = whole(v.threads, "threads", 1, 64) ?? availableParallelism();
        const { redis, name, cache } = v;
        // queues take half a second to be loaded, which no other verb needs
        const { workerCommand } = await import("./worker");
        await workerCommand({ redis, name, threads, tokenFile: v["token-file"], cache, buildDirectory }, console.log);
        return 0;
      }
      case "diagnose": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          output: { type: "string", short: "o" },
          threads: text,
          noise: { type: "boolean" },
          json: { type: "boolean" },
        });
        const document = oneDocument("diagnose", positionals);
        const threads = whole(v.threads, "threads", 1, 64);
        const progress = progressOf();
        if (v.noise) {
          if (v.output) throw new InputError("diagnose: --noise measures and writes nothing; leave -o out");
          const report = await noiseCommand({
            document,
            buildDirectory,
            ...(threads !== undefined ? { threads } : {}),
            ...(progress ? { progress } : {}),
          });
          progress?.("");
          if (v.json) console.log(JSON.stringify({ ...report, remedies: report.remedies.map(({ words, gain }) => ({ words, gain })) }));
          else printNoise(report);
          return 0;
        }
        const findings = await diagnoseCommand({
          document,
          buildDirectory,
          ...(v.output ? { output: v.output } : {}),
          ...(threads !== undefined ? { threads } : {}),
          ...(progress ? { progress } : {}),
        });
        progress?.("");
        if (v.json)
          console.log(JSON.stringify(findings.map(({ id, says, remedies }) => ({ id, says, remedies: remedies.map((r) => r.words) }))));
        else if (findings.length === 0) console.log("no problem found with the air of this frame");
        else
          for (const f of findings)
            console.log(`${f.says}${f.remedies.length > 0 ? `\n  remedy: ${f.remedies.map((r) => r.words).join(", or ")}` : ""}`);
        return 0;
      }
      case "bake": {
        const text = { type: "string" } as const;
        const { values: v, positionals } = options(rest, {
          output: { type: "string", short: "o" },
          medium: text,
          across: text,
          at: text,
        });
        const document = oneDocument("bake", positionals);
        if (!v.output) throw new InputError("bake: say where to write with -o OUT.vdb");
        const across = whole(v.across, "across", 8, 256) ?? 128;
        const made = await bakeCommand({
          document,
          output: v.output,
          medium: v.medium ?? "1",
          across,
          ...moment(v.at),
          buildDirectory,
        });
        console.log(`${v.output}: ${made.name}, ${made.voxels} voxels of ${Number(made.size.toPrecision(3))} m, extinction in 1/m`);
        return 0;
      }
      case "check": {
        const { positionals } = options(rest, {});
        const document = oneDocument("check", positionals);
        const doc = await loadDocument(document);
        const { models, pictures, profiles } = await loadResources(doc, document);
        const lut = await loadLut(doc, document);
        const triangles = [...models.values()].reduce((n, m) => n + m.material.length, 0);
        console.log(
          `${document}: valid; ${doc.objects.length} objects, ${models.size} models with ${triangles} triangles, ` +
            `${pictures?.size ?? 0} pictures, ${profiles?.size ?? 0} photometric profiles${lut ? ", a look-up table" : ""}`,
        );
        return 0;
      }
      case "schema":
        if (rest.length > 1 || (rest[0] !== undefined && rest[0] !== "stack"))
          throw new InputError(`schema ${rest.join(" ")}: of stack, or nothing`);
        console.log(JSON.stringify(rest[0] === "stack" ? stackJsonSchema() : documentJsonSchema(), null, 2));
        return 0;
      case "demo":
        await demoCommand(rest, buildDirectory, (line) => console.log(line));
        return 0;
      case undefined:
      case "help":
      case "--help":
      case "-h":
        console.log(HELP);
        return command === undefined ? 2 : 0;
      default:
        throw new InputError(`no command named ${command}; "fumarium help" lists them`);
    }
  } catch (error) {
    if (error instanceof InputError) {
      console.error(`fumarium: ${error.message}`);
      return 2;
    }
    if (error instanceof Ended) {
      console.error("fumarium: interrupted; the same command with --resume goes on with what is kept");
      return 1;
    }
    if (error instanceof OutputError || error instanceof ServerError) {
      console.error(`fumarium: ${error.message}`);
      return 1;
    }
    console.error(`fumarium: failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`);
    return 1;
  }
}
