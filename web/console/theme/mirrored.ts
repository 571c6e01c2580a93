import type { Options } from "@emotion/cache";

/** How styles are made for a language that runs from right to left; nothing for others. */
export async function mirrored(): Promise<Pick<Options, "stylisPlugins">> {
  if (document.documentElement.dir !== "rtl") return {};
  const [{ default: rtl }, { prefixer }] = await Promise.all([
    import("@mui/stylis-plugin-rtl"),
    import("stylis"),
  ]);
  return { stylisPlugins: [prefixer, rtl] };
}
