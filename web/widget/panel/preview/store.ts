import { language } from "../../../shared/speak";
import { speaksAs } from "../speaks";
import { PanelStore } from "../store";
import type { Look, PreviewMessage } from "./look";
import type { Answers } from "../help/answers";
import { stateIn } from "./scene";

/** Shows what an editor of the team says instead of a visitor's conversation. Nothing is sent. */
export class PreviewStore extends PanelStore {
  private newest = 0;

  /** Listens to the page around, which is ours. */
  override async begin(): Promise<void> {
    addEventListener("message", (event: MessageEvent<PreviewMessage | null>) => {
      const look = event.data?.stoopPreview;
      if (event.origin !== location.origin || !look || look === "ready") return;
      const mine = ++this.newest;
      // Where its words do not come, the usual ones of another language do.
      const spoke = speaksAs(look.widget).catch(() => undefined);
      void spoke.then(() => {
        if (mine !== this.newest) return; // another one came while the words were on their way
        this.answers = answersIn(look);
        const spoken = this.state.widget?.language === language();
        this.set({ ...stateIn(look, Date.now()), refills: this.state.refills + (spoken ? 0 : 1) });
      });
    });
    window.parent.postMessage({ stoopPreview: "ready" } satisfies PreviewMessage, location.origin);
    await Promise.resolve();
  }

  override connect(): void {
    // Nothing is sent from here.
  }
  override open(): void {
    // A question typed into a preview goes nowhere.
  }
  override say(): void {
    // Nor do words.
  }
  override onPage(): void {
    // The page around is a drawing.
  }
  override onTeam(): void {
    // The editor says who is in.
  }
  override onWidget(): void {
    // And how the widget looks.
  }
  override onInvited(): void {
    // The scene has it already.
  }
}

/** What there is to find in a preview: the FAQs, whose titles are found by what stands in them. */
function answersIn({ faqs, search, widget, sample }: Look): Answers {
  const titled = (id: string) => faqs.find((a) => a.id === id)?.title ?? "";
  return {
    help: () => Promise.resolve({ search, faqs }),
    find: (words) => Promise.resolve(faqs.filter((a) => a.title.toLowerCase().includes(words.toLowerCase()))),
    read: (id) =>
      Promise.resolve({
        id,
        title: titled(id),
        language: widget.language,
        html: `<p>${sample.article}</p>`,
      }),
    helped: () => Promise.resolve(),
  };
}
