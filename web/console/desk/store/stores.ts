// The small stores that the Desk is made of. Each holds what changes together
// and is read through selectors, so that who reads one is not drawn anew for
// another. Every state is a new object for each change.
import type { StoreApi } from "zustand/vanilla";

import type { Log } from "../../../shared/log";
import type { LiveState } from "../../../shared/live";
import type { Unsent } from "../../../shared/outbox";
import type {
  ChatView,
  DepartmentView,
  FileLimits,
  OperatorView,
  PlaceView,
  Preferences,
} from "../../../shared/types";
import { Frames } from "./framed";
import { keptLanes, type Lanes } from "./lanes";
import type { Upload } from "./uploads";

/** Who I am, who my colleagues are, and what the team has set. */
export interface TeamState {
  me: OperatorView;
  connection: LiveState;
  /** How often the connection came up: what was missed in between must be asked for. */
  connects: number;
  loaded: boolean;
  operators: OperatorView[];
  departments: DepartmentView[];
  outcomes: string[];
  currency: string;
  files: FileLimits;
  /** After how many offers let by Stoop set me away, until I have read it. */
  setAwayAfter: number;
}

/** What waits, what I hold, and what I held and have not closed. */
export interface ChatsState {
  chats: ReadonlyMap<string, ChatView>;
  /** Chats that the operator is taking right now. */
  taking: ReadonlySet<string>;
  /** A chat that would be more than I should hold, until I say whether I mean it. */
  tooMany: { chatId: string; load: number; capacity: number } | undefined;
  /** Chats that I read along as a lead. */
  watched: ReadonlySet<string>;
}

/** A visitor's words that are not sent yet, and when they were last seen to change. */
export interface Draft {
  text: string;
  at: number;
}

/** What was said, and what is being said. */
export interface ScriptsState {
  logs: ReadonlyMap<string, Log>;
  drafts: ReadonlyMap<string, Draft>;
  unsent: ReadonlyMap<string, Unsent[]>;
  /** How often words went back into the draft of a chat, for its composer to read it anew. */
  refills: ReadonlyMap<string, number>;
}

/** Where visitors are, by visitor. */
export interface PlacesState {
  places: ReadonlyMap<string, PlaceView>;
}

/** Files on their way, by chat. */
export interface UploadsState {
  uploads: ReadonlyMap<string, Upload[]>;
}

/** How I want my console. */
export interface PreferencesState {
  preferences: Preferences;
}

/** A chat of the same person that is read beside the one in use. */
export interface Beside {
  id: string;
  of: string;
}

/** What is on screen: the lanes, which is in use, and what stands beside it. */
export interface WindowsState {
  lanes: Lanes;
  /** The lane in use. */
  focused: string;
  beside: Beside | undefined;
  /** The lane that is shown without the others; empty for all. */
  alone: string;
  /** The chat whose card in the line a link led to, and whether the keyboard goes there; a new object each time. */
  ledTo?: { id: string; keyboard: boolean } | undefined;
}

/** All stores of a Desk. */
export interface Stores {
  frames: Frames;
  team: StoreApi<TeamState>;
  chats: StoreApi<ChatsState>;
  scripts: StoreApi<ScriptsState>;
  places: StoreApi<PlacesState>;
  uploads: StoreApi<UploadsState>;
  preferences: StoreApi<PreferencesState>;
  windows: StoreApi<WindowsState>;
}

/** Makes the stores of an operator who has just come. */
export function makeStores(me: OperatorView): Stores {
  const frames = new Frames();
  return {
    frames,
    team: frames.store<TeamState>({
      me,
      connection: "connecting",
      connects: 0,
      loaded: false,
      operators: [],
      departments: [],
      outcomes: [],
      currency: "EUR",
      files: { maxBytes: 25 * 1024 * 1024, kinds: [] },
      setAwayAfter: 0,
    }),
    chats: frames.store<ChatsState>({
      chats: new Map(),
      taking: new Set(),
      tooMany: undefined,
      watched: new Set(),
    }),
    scripts: frames.store<ScriptsState>({
      logs: new Map(),
      drafts: new Map(),
      unsent: new Map(),
      refills: new Map(),
    }),
    places: frames.store<PlacesState>({ places: new Map() }),
    uploads: frames.store<UploadsState>({ uploads: new Map() }),
    preferences: frames.store<PreferencesState>({ preferences: {} }),
    windows: frames.store<WindowsState>({
      lanes: keptLanes(me.id),
      focused: "",
      beside: undefined,
      alone: "",
    }),
  };
}

/** Returns a map with one entry changed. */
export function put<V>(map: ReadonlyMap<string, V>, key: string, value: V): Map<string, V> {
  return new Map(map).set(key, value);
}

/** Returns a map without an entry; the same one when it has none. */
export function without<V>(map: ReadonlyMap<string, V>, key: string): ReadonlyMap<string, V> {
  if (!map.has(key)) return map;
  const rest = new Map(map);
  rest.delete(key);
  return rest;
}

/** Returns a set with, or without, a member. */
export function membership(set: ReadonlySet<string>, member: string, is: boolean): ReadonlySet<string> {
  if (set.has(member) === is) return set;
  const changed = new Set(set);
  if (is) changed.add(member);
  else changed.delete(member);
  return changed;
}
