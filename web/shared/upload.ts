import { t } from "@lingui/core/macro";

import { LostError, ProblemError } from "./problem";
import { locale } from "./speak";
import type { EventView, FileLimits, Problem } from "./types";

export interface Sending<T> {
  /** Settles with the answer; throws a ProblemError, a LostError, or an AbortError after cancel. */
  done: Promise<T>;
  cancel: () => void;
}

/**
 * Sends a file as the body of a request and tells how far it has come, from 0
 * to 1. The browser's fetch cannot tell that.
 */
export function upload<T = { event: EventView }>(
  url: string,
  file: Blob,
  onProgress: (share: number) => void,
  headers: Record<string, string> = {},
): Sending<T> {
  const request = new XMLHttpRequest();
  const done = new Promise<T>((resolve, reject) => {
    request.upload.onprogress = (e) => onProgress(e.total > 0 ? e.loaded / e.total : 0);
    request.onabort = () => reject(new DOMException("cancelled", "AbortError"));
    request.onerror = () => reject(new LostError());
    request.onload = () => {
      const answer = parsed(request.responseText);
      if (request.status >= 200 && request.status < 300 && answer) resolve(answer as T);
      else if ((answer as Partial<Problem> | undefined)?.code) reject(new ProblemError(answer as Problem));
      else reject(new LostError());
    };
    request.open("POST", url);
    for (const [name, value] of Object.entries(headers)) request.setRequestHeader(name, value);
    request.send(file);
  });
  return { done, cancel: () => request.abort() };
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** Says in words why a file will not be taken, before it is sent; empty when it may be. */
export function refusal(file: { size: number; name: string }, limits: FileLimits): string {
  if (file.size > limits.maxBytes) {
    const [size, most] = [fileSize(file.size), fileSize(limits.maxBytes)];
    return t`${file.name} has ${size}. At most ${most} go at once.`;
  }
  if (file.size === 0) return t`${file.name} is empty.`;
  return "";
}

/** Returns a file's size in words. */
export function fileSize(bytes: number): string {
  if (bytes < 1000) return amount(bytes, "byte", 0);
  if (bytes < 1024 * 1024) return amount(bytes / 1024, "kilobyte", 0);
  const mega = bytes / (1024 * 1024);
  return mega < 1000 ? amount(mega, "megabyte", mega < 10 ? 1 : 0) : amount(mega / 1024, "gigabyte", 1);
}

function amount(of: number, unit: string, maximumFractionDigits: number): string {
  const unitDisplay = unit === "byte" ? "long" : "short";
  return new Intl.NumberFormat(locale(), { style: "unit", unit, unitDisplay, maximumFractionDigits }).format(
    of,
  );
}

/** Returns the files that somebody pasted or dropped. */
export function filesOf(data: DataTransfer | null): File[] {
  return data ? [...data.files] : [];
}
