import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { InputError } from "#core/errors";
import { answerTo, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const PUT: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects, assets } = await services();
    const { picture } = await readBody(API.setPicture, request);
    if ((await assets.kind(picture)) !== "picture") throw new InputError("picture: not uploaded");
    await projects.setPicture(part(params, "id"), picture);
    return answerTo(API.setPicture, { done: true });
  });
