import type { APIRoute } from "astro";
import { z } from "zod";
import { InputError } from "#core/errors";
import { answer, readJson, respond } from "#server/http";
import { services } from "#server/services";

const body = z.strictObject({ picture: z.string().regex(/^[0-9a-f]{64}$/) });

/** Sets the latest picture of a project, uploaded before. */
export const PUT: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { picture } = await readJson(request, body);
    if ((await projects.assetKind(picture)) !== "picture") throw new InputError("picture: not uploaded");
    await projects.setPicture(params.id!, picture);
    return answer({ done: true });
  });
