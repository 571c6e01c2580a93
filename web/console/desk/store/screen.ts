import { t } from "@lingui/core/macro";
import { LaneBook } from "./lanes";
import type { Beside, Stores } from "./stores";
import { Windows } from "./windows";

/** What follows from what is looked at. */
export interface Looking {
  /** A chat was turned to. */
  turnedTo: (id: string) => void;
  /** A lane is on screen now, with all that stands in it. */
  seen: (id: string) => void;
}

/** How long a lane is waited for that the keyboard is to go to, in milliseconds. */
const drawnWithin = 5000;

/** Reports whether somebody types now who had the keyboard elsewhere: it is not taken from them. */
export function begunToType(from: Element | null): boolean {
  const at = document.activeElement;
  return at !== from && at !== null && at.matches("input, textarea");
}

/** What is on screen: the lanes, the one in use, and what stands beside it. */
export class Screen {
  readonly lanes: LaneBook;
  private readonly windows: Windows;

  constructor(
    private readonly stores: Stores,
    private readonly looking: Looking,
    private readonly say: (words: string) => void,
  ) {
    const { windows } = stores;
    this.lanes = new LaneBook(
      stores.team.getState().me.id,
      () => windows.getState().lanes,
      (lanes) => windows.setState({ lanes }),
    );
    this.windows = new Windows((ids) => this.lanes.setOutside(ids));
  }

  /** Brings a chat into a lane and makes it the one in use. */
  focus(id: string): void {
    if (this.lanes.isOutside(id)) {
      this.windows.show(id);
      return;
    }
    this.lanes.open(id);
    const { alone } = this.stores.windows.getState();
    this.turn(id, alone ? id : "");
    this.looking.turnedTo(id);
    this.looking.seen(id);
  }

  /**
   * Brings a chat into a lane and the keyboard into its composer: the lane in
   * use and the one that is typed in are never two different ones.
   */
  writeTo(id: string): void {
    this.focus(id);
    // A lane that was not there must be drawn first, and perhaps the Desk itself.
    const from = document.activeElement;
    const until = performance.now() + drawnWithin;
    const look = () => {
      const field = document.getElementById(`write-${id}`);
      const typesElsewhere = begunToType(from);
      const turned = this.stores.windows.getState().focused !== id;
      if (field) field.focus();
      else if (!typesElsewhere && !turned && performance.now() < until) requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  }

  /** Marks the card of a chat in the line and brings the keyboard to it, if wanted; nothing is taken by that. */
  leadTo(id: string, keyboard: boolean): void {
    this.stores.windows.setState({ ledTo: { id, keyboard } });
  }

  /** Takes note of which lane is in use, without moving the keyboard. */
  use(id: string): void {
    if (this.stores.windows.getState().focused !== id) {
      this.turn(id);
      this.looking.turnedTo(id);
    }
    this.looking.seen(id);
  }

  /** Makes a lane the one in use if none is. */
  begin(id: string | undefined): void {
    if (id && !this.stores.windows.getState().focused) this.turn(id);
  }

  /** Other lanes are on screen now: what stands in them is seen. */
  lookAgain(): void {
    for (const id of this.lanes.list()) this.looking.seen(id);
  }

  /** Lets another lane be the one in use when this one is not on screen any more. */
  turnFrom(id: string): void {
    const { focused, alone, beside } = this.stores.windows.getState();
    this.stores.windows.setState({
      alone: alone === id ? "" : alone,
      beside: beside?.of === id ? undefined : beside,
    });
    if (focused === id) this.turn(this.lanes.showable()[0] ?? "");
  }

  /** Puts the keyboard where nothing can be sent by a slip: the script of the lane in use, or the line. */
  rest(): void {
    requestAnimationFrame(() => {
      if (document.activeElement && document.activeElement !== document.body) return;
      const lane =
        document.querySelector<HTMLElement>(".lane.here .script") ??
        document.querySelector<HTMLElement>(".line button");
      lane?.focus();
    });
  }

  /** Shows a lane alone, or all of them again. */
  showAlone(id: string): void {
    const { alone } = this.stores.windows.getState();
    this.stores.windows.setState({ alone: alone === id ? "" : id });
  }

  /** Opens a lane in a window of its own. */
  openWindow(id: string): void {
    if (!this.windows.open(id)) this.say(t`The browser blocked the window. Allow pop-ups for this page.`);
  }

  /** Tells the other windows that this one shows a lane. */
  isWindowOf(id: string): () => void {
    return this.windows.hold(id);
  }

  /** Reads an earlier chat beside the lane in use. */
  readBeside(beside: Beside | undefined): void {
    this.stores.windows.setState({ beside });
  }

  /** Reports whether I look at a chat's lane. */
  looksAt(id: string): boolean {
    return this.lanes.isShown(id) && document.visibilityState === "visible" && document.hasFocus();
  }

  close(): void {
    this.windows.close();
  }

  private turn(focused: string, alone = this.stores.windows.getState().alone): void {
    const before = this.stores.windows.getState();
    if (before.focused === focused && before.alone === alone) return;
    this.stores.windows.setState({ focused, alone, ledTo: undefined });
    // The next key may follow at once, and is meant for this lane.
    if (before.focused !== focused) this.stores.frames.flush();
  }
}
