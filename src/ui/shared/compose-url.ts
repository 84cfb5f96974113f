/** Where a stack begins with a picture that the server keeps. */
export const composeUrl = (title: string, pictures: readonly { sha256: string; name: string }[]): string => {
  const query = new URLSearchParams({ title });
  for (const { sha256, name } of pictures) {
    query.append("source", sha256);
    query.append("name", name);
  }
  return `/compose/new?${query}`;
};
