// Gives Lingui's tools another node:fs; see glob.mjs.
export async function resolve(specifier, context, next) {
  const fs = specifier === "node:fs" || specifier === "node:fs/promises";
  if (!fs || !context.parentURL?.includes("/@lingui/")) return next(specifier, context);
  const name = specifier === "node:fs" ? "./glob-fs.mjs" : "./glob-fs-promises.mjs";
  return { url: new URL(name, import.meta.url).href, shortCircuit: true };
}
