import fs from "fs";
import { globSync as find } from "tinyglobby";

export * from "fs";
export default fs;

/** Finds files as fs.globSync of Node 22 does. */
export function globSync(patterns, { exclude, cwd } = {}) {
  return find(patterns, { ignore: exclude, cwd, expandDirectories: false });
}
