// What the loader and the rest of our code on a site's page have in common.

import type { State } from "../stands";

/** What a page knows of its widget. */
export interface Widget {
  title: string;
  colour: string;
  onColour: string;
  corner: "left" | "right";
  /** What it says in the language that it speaks here. */
  language: string;
  words: Record<string, string>;
  looks: { distance: number; size: string; icon: string };
  now: State;
  hideClosed: boolean;
  /** Not shown on this page. */
  hidden?: boolean;
  /** What the visitor is to be asked before anything is collected. */
  consent?: string;
  invitation?: Invitation;
}

/** What changed of a widget. */
export type Changed = Partial<Omit<Widget, "invitation">>;

/** Words to a visitor who has not written, by a person of the team. */
export interface Invitation {
  id: string;
  text: string;
  name: string;
  department?: string;
  /** The panel is opened, and not only a card shown. */
  opens?: boolean;
  /** When it was seen here before. */
  shown?: boolean;
}

/** What the loader gives to the rest. */
export interface Host {
  key: string;
  origin: string;
  /** Where the server listens to this widget's pages. */
  path: string;
  side: "left" | "right";
  /** How far from that side, as a CSS length. */
  distance: string;
  widget: Widget;
  root: ShadowRoot;
  button: HTMLButtonElement;
  /** Begins the names of all that is kept. */
  prefix: string;
  /** What is kept where there is no storage. */
  memory: Map<string, string>;
  lasts: () => boolean;
  remember: (name: string, value?: string | null, place?: "local" | "session") => string | undefined;
  page: () => { tab: string; token: string | undefined; url: string; title: string };
  pulse: () => void;
  /** The visitor does something where the page does not see it. */
  attends: () => void;
  show: (now: State, changed?: Changed) => void;
  /** What the site's scripts asked for and was not done yet. */
  calls: [string, unknown[]][];
  /** The interface for the site's scripts. */
  stoop: Record<string, unknown>;
}

/** What the rest does when it is told. */
export interface More {
  open: (open: boolean, byHand?: boolean) => void;
  load: () => void;
  now: (state: State) => void;
  changed: () => void;
  page: () => void;
  /** Another tab of this browser began a chat. */
  chat: () => void;
  invited: (invitation: Invitation | undefined) => void;
  consent: (text: string) => void;
  /** The site's scripts asked for something. */
  called: () => void;
}
