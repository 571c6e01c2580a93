import promises from "fs/promises";
import { glob as find } from "tinyglobby";

export * from "fs/promises";
export default promises;

/** Finds files as fs.promises.glob of Node 22 does. */
export async function* glob(patterns, { exclude, cwd } = {}) {
  yield* await find(patterns, { ignore: exclude, cwd, expandDirectories: false });
}
