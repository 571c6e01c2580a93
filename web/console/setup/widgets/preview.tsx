import { t } from "@lingui/core/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, ask } from "../../../shared/api";
import type { DesignPreview, WidgetDesign } from "../../../shared/types";
import type { Look, PreviewMessage, Sample, Scene } from "../../../widget/panel/preview/look";
import { Choice } from "../../kit/choice";
import { Select } from "../../kit/select";
import { languageName } from "./languages";

/** What is looked at beside the editor. */
export interface Seen {
  preview: DesignPreview | undefined;
  language: string;
  setLanguage: (language: string) => void;
  /** Looks at another design, such as a former one; undefined for the one that is edited. */
  setInstead: (design: WidgetDesign | undefined) => void;
  instead: boolean;
  /** Visitors can search the articles. */
  searches: boolean;
}

const pause = 250;

/** Asks the server how a design would look and speak, a moment after it was last changed. */
export function usePreview(key: string, edited: WidgetDesign): Seen {
  const [chosen, setLanguage] = useState("");
  const [instead, setInstead] = useState<WidgetDesign | undefined>();
  const design = instead ?? edited;
  const text = JSON.stringify(design);
  const [asked, setAsked] = useState(text);
  useEffect(() => {
    const later = setTimeout(() => setAsked(text), pause);
    return () => clearTimeout(later);
  }, [text]);
  const language = design.languages.includes(chosen) ? chosen : (design.languages[0] ?? "en");
  const preview = useQuery({
    queryKey: ["widget-preview", key, asked, language],
    queryFn: ({ signal }) =>
      ask(
        api.POST("/api/setup/widget-preview", {
          body: { key: "preview", design: JSON.parse(asked) as WidgetDesign, language },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  return {
    preview: preview.data,
    language,
    setLanguage,
    setInstead,
    instead: instead !== undefined,
    searches: design.help.search,
  };
}

function scenes(): { value: Scene; label: string }[] {
  return [
    { value: "launcher", label: t`Launcher, open` },
    { value: "closedLauncher", label: t`Launcher, closed` },
    { value: "invitation", label: t`Invitation` },
    { value: "help", label: t`Finding an answer` },
    { value: "form", label: t`Before a chat` },
    { value: "offline", label: t`Leaving a message` },
    { value: "waiting", label: t`Waiting` },
    { value: "chat", label: t`In a chat` },
    { value: "ended", label: t`After a chat` },
  ];
}

/** How large the page of the preview is, in CSS pixels, before it is made to fit. */
const sizes = { desktop: [640, 690], phone: [390, 690] } as const;

/** The true launcher and panel on a page of no site, in each state. */
export function Preview({ seen, languages }: { seen: Seen; languages: string[] }) {
  const [scene, setScene] = useState<Scene>("form");
  const [device, setDevice] = useState<keyof typeof sizes>("desktop");
  const frame = useRef<HTMLIFrameElement>(null);
  const view = seen.preview?.widget;
  const sample: Sample = useMemo(
    () => ({
      operator: t`Maren Holt`,
      visitor: t`Wren`,
      question: t`Can I bring my bicycle on the evening crossing?`,
      answer: t`Yes, bicycles travel free on every crossing. Shall I book the place for you?`,
      thanks: t`Yes, please!`,
      invitation: t`Can I help you to find a crossing?`,
      article: t`Here stands the article, as you wrote it in the Library.`,
    }),
    [],
  );
  const faqs = seen.preview?.faqs;
  const look = useMemo<Look | undefined>(
    () => view && { widget: view, scene, sample, faqs: faqs ?? [], search: seen.searches },
    [view, scene, sample, faqs, seen.searches],
  );
  useEffect(() => {
    const tell = () => {
      if (look)
        frame.current?.contentWindow?.postMessage(
          { stoopPreview: look } satisfies PreviewMessage,
          location.origin,
        );
    };
    const onMessage = (event: MessageEvent<PreviewMessage | null>) => {
      if (event.source === frame.current?.contentWindow && event.data?.stoopPreview === "ready") tell();
    };
    addEventListener("message", onMessage);
    tell();
    return () => removeEventListener("message", onMessage);
  }, [look]);
  const [width, height] = sizes[device];
  const scale = Math.min(1, 420 / width, 580 / height);
  return (
    <aside className="preview" aria-label={t`Preview`}>
      <div className="preview-head">
        <Select label={t`Show`} value={scene} change={(v) => setScene(v as Scene)} options={scenes()} />
        <Select
          label={t`Language`}
          value={seen.language}
          change={seen.setLanguage}
          options={languages.map((l) => ({ value: l, label: languageName(l) }))}
        />
        <Choice
          label={t`Device`}
          value={device}
          change={setDevice}
          options={[
            { value: "desktop", words: t`Desktop` },
            { value: "phone", words: t`Phone` },
          ]}
        />
      </div>
      {seen.instead ? (
        <p className="draft-of" role="status">
          {t`This is a former version.`}{" "}
          <button className="as-link" onClick={() => seen.setInstead(undefined)}>
            {t`Back to what is edited`}
          </button>
        </p>
      ) : null}
      <div className="stage" style={{ width: width * scale, height: height * scale }}>
        <iframe
          ref={frame}
          key={device}
          src="/preview"
          title={t`The chat on a page`}
          style={{ width, height, transform: `scale(${scale})` }}
        />
      </div>
    </aside>
  );
}
