/** Demo plates: pictures of which the truth is known, as if they came from elsewhere, each with air of ours before it. */
import { createHash } from "node:crypto";
import { existsSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument, SceneDocumentInput } from "#core/document/schema";
import { beginPlate, type PlateSaid } from "#core/plate/begin";
import { plateFile } from "#core/plate/file";
import type { DemoFile, DemoSet } from "../index";
import { buildJetty, JETTY } from "./jetty";

const sha256 = (bytes: Uint8Array): string => createHash("sha256").update(bytes).digest("hex");

/** The palm house in clear air, as it was rendered once: 512 samples wanted, 69 had, cleaned. Beside the sources, wherever this is bundled. */
function palmHouse(): Uint8Array {
  const places = ["./palm-house.exr", "../demo/plates/palm-house.exr"].map((p) => fileURLToPath(new URL(p, import.meta.url)));
  return new Uint8Array(readFileSync(places.find((p) => existsSync(p)) ?? places[0]!));
}

let jetty: ReturnType<typeof buildJetty> | null = null;

/** What its files say, with air and lights before it. */
function withAir(
  files: Record<string, Uint8Array>,
  said: PlateSaid,
  more: { title: string } & Pick<SceneDocumentInput, "air" | "sun" | "sky" | "render">,
  exposure?: number,
): SceneDocument {
  const [picture, depth] = Object.entries(files).map(([name, bytes], i) =>
    plateFile(bytes, name, sha256(bytes), i === 0 ? "picture" : "depth"),
  );
  const { document } = beginPlate(more.title, picture!, depth ?? null, said);
  return parseDocument({ ...document, ...more, film: { ...document.film, ...(exposure === undefined ? {} : { exposure }) } });
}

const kinds = (files: Record<string, Uint8Array>): Record<string, DemoFile> =>
  Object.fromEntries(Object.entries(files).map(([name, bytes]) => [name, { kind: name.endsWith(".exr") ? "film" : "image", bytes }]));

const jettyFiles = (): Record<string, Uint8Array> => {
  jetty ??= buildJetty();
  return { "jetty.png": jetty.picture, "jetty-depth.png": jetty.depth };
};
const palmFiles = (): Record<string, Uint8Array> => ({ "palm-house-clear.exr": palmHouse() });

export const DEMO_PLATES: readonly DemoSet[] = [
  {
    id: "plate-jetty",
    title: "Jetty at low water (plate)",
    description: "A picture of 8 bits and its depth of 16: morning mist over wet sand, shafts between the posts.",
    build: () => Promise.resolve(kinds(jettyFiles())),
    document: () =>
      withAir(
        jettyFiles(),
        { range: [...JETTY.range], fieldOfView: JETTY.fieldOfView, across: 960 },
        {
          title: "Jetty at low water",
          sun: { azimuth: JETTY.sun[0], elevation: JETTY.sun[1], illuminance: 16000, temperature: 4300, diskVisible: false },
          sky: { model: "gradient", luminance: 1500, zenith: [0.35, 0.55, 1], horizon: [1, 0.82, 0.7] },
          air: [
            {
              name: "low mist",
              density: 0.022,
              anisotropy: 0.55,
              height: { level: 0.4, scale: 2.2 },
              noise: { character: "soft", size: 14, evenness: 0.45, drift: [0.4, 0, 0] },
            },
            { name: "haze", density: 0.0011, anisotropy: 0.6, height: { level: 0, scale: 180 } },
          ],
          render: { level: "shafts", samples: 128 },
        },
      ),
  },
  {
    id: "plate-palm-house",
    title: "Palm house (plate)",
    description: "A render in clear air with its distances, in linear light: the haze comes after.",
    build: () => Promise.resolve(kinds(palmFiles())),
    document: () =>
      withAir(
        palmFiles(),
        { across: 960 },
        {
          title: "Palm house, from a render",
          ...palmAir(),
        },
      ),
  },
];

/** Sun, sky and haze as in the set that the picture is of. */
function palmAir(): Pick<SceneDocumentInput, "air" | "sun" | "sky" | "render"> {
  const frame = plateFile(palmHouse(), "palm-house-clear.exr", "", "picture").frame;
  const { sun, sky } = JSON.parse(frame.attributes["fumarium.document"]!) as SceneDocument;
  return {
    sun: { ...sun, gobo: null },
    sky,
    air: [{ name: "haze", density: 0.028, anisotropy: 0.5, height: { level: 0, scale: 9 } }],
    render: { level: "shafts", samples: 128 },
  };
}
