import type { APIRoute } from "astro";
import { z } from "zod";
import { parseDocument } from "#core/document/parse";
import { LIMITS } from "#core/document/schema";
import { answer, readJson, respond } from "#server/http";
import { services } from "#server/services";

const hash = z.string().regex(/^[0-9a-f]{64}$/);
const body = z.strictObject({
  document: z.unknown(),
  note: z.string().max(2000),
  seconds: z.number().min(0).max(1e7),
  samples: z.number().min(0).max(1e7),
  noise: z.number().min(0).nullable(),
  picture: hash,
  film: hash,
});

/** Keeps a proof whose picture and film were uploaded before. */
export const POST: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const proof = await readJson(request, body, LIMITS.text);
    return answer(await projects.keepProof(params.id!, { ...proof, document: parseDocument(proof.document) }), 201);
  });
