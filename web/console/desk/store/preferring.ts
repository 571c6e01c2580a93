import { api, ask } from "../../../shared/api";
import type { Preferences } from "../../../shared/types";
import type { Stores } from "./stores";

const savedAfter = 400; // milliseconds

/** How I want my console: here at once, on the server a moment later. */
export class Preferring {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private unsaved: Preferences = {};

  constructor(
    private readonly stores: Stores,
    private readonly changed: (preferences: Preferences) => void,
  ) {}

  /** Changes some of it. */
  prefer(change: Preferences): void {
    this.unsaved = { ...this.unsaved, ...change };
    this.set({ ...this.stores.preferences.getState().preferences, ...change });
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.save(), savedAfter);
  }

  /** Takes in what the server has; what it does not have yet is saved again. */
  takeIn(preferences: Preferences): void {
    this.set({ ...preferences, ...this.unsaved });
    if (Object.keys(this.unsaved).length > 0) void this.save();
  }

  private set(preferences: Preferences): void {
    this.stores.preferences.setState({ preferences });
    this.changed(preferences);
  }

  private async save(): Promise<void> {
    const body = this.unsaved;
    this.unsaved = {};
    try {
      await ask(api.PATCH("/api/me/preferences", { body }));
    } catch {
      // Kept for the next change, or the next connect.
      this.unsaved = { ...body, ...this.unsaved };
    }
  }
}
