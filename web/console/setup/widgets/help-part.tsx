import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../../shared/api";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { Choice, Tick } from "../../kit/choice";
import { Select } from "../../kit/select";
import { LoadTrouble, Wrong } from "../../kit/states";
import { ReadBy } from "../../library/read-by";
import { PagePatterns } from "../page-patterns";
import type { PartProps } from "./editor";
import { HelperChoice } from "./helper-choice";
import { languageName } from "./languages";

/** What answers before a person does: FAQs, a search, their booking, and the helper. */
export function HelpPart({ design, change, wrongAt }: PartProps) {
  const { help } = design;
  const put = (part: Partial<typeof help>) => change({ help: { ...help, ...part } });
  const [open, setOpen] = useState(-1);
  const articles = useQuery({
    queryKey: ["articles", "read"],
    queryFn: () => ask(api.GET("/api/articles", { params: { query: { words: "" } } })),
  });
  if (articles.isError) return <LoadTrouble error={articles.error} again={() => void articles.refetch()} />;
  const all = (articles.data ?? []).filter((a) => a.audience === "all");
  const of = new Map(all.map((a) => [a.id ?? "", a]));
  const free = all.filter((a) => !help.faqs.some((q) => q.article === a.id));
  const edit = (at: number, pages: string[]) =>
    put({ faqs: help.faqs.map((q, i) => (i === at ? { ...q, pages } : q)) });
  const move = (at: number, by: number) => {
    const faqs = [...help.faqs];
    const [moved] = faqs.splice(at, 1);
    if (!moved) return;
    faqs.splice(at + by, 0, moved);
    put({ faqs });
    setOpen(open === at ? at + by : open);
  };
  return (
    <>
      <HelperChoice design={design} change={change} wrongAt={wrongAt} />
      <h3>
        <Trans>Found by themselves</Trans>
      </h3>
      <p className="about">
        <Trans>
          What visitors can find by themselves before they write. Somebody to ask is always one press away.
          Nothing chosen here: the panel begins with the form.
        </Trans>
      </p>
      <Tick checked={help.search} change={(search) => put({ search })}>
        <Trans>Visitors can search all articles that are for visitors</Trans>
      </Tick>
      <Tick checked={help.booking} change={(booking) => put({ booking })}>
        <Trans>Visitors can look up a booking of theirs, if a booking system is connected</Trans>
      </Tick>
      <Tick checked={help.calls === true} change={(calls) => put({ calls })}>
        <Trans>Visitors can ask to be called back; that makes a ticket</Trans>
      </Tick>
      <h3>
        <Trans>FAQs</Trans>
      </h3>
      <p className="about">
        <Trans>
          A visitor sees the first six that are for the page and in their language; if there are none, those
          in {languageName(design.languages[0] ?? "en")}.
        </Trans>{" "}
        <Link to="/library/articles">
          <Trans>Write articles in the Library</Trans>
        </Link>
      </p>
      <Choice
        label={t`Order of the FAQs`}
        value={help.order}
        change={(order) => put({ order })}
        options={[
          { value: "hand", words: t`In the order of this list` },
          { value: "use", words: t`Most read in the last 90 days first` },
        ]}
      />
      <ol className="form-fields">
        {help.faqs.map((q, i) => {
          const a = of.get(q.article);
          const title = a?.title ?? (articles.isSuccess ? t`(not for visitors any more)` : "");
          const amiss = wrongAt(`help.faqs.${i}.article`) ?? (a || !articles.isSuccess ? undefined : title);
          return (
            <li key={q.article} className={amiss || wrongAt(`help.faqs.${i}.pages`) ? "amiss" : ""}>
              <div className="row">
                <button
                  className="field-name"
                  aria-expanded={open === i}
                  onClick={() => setOpen(open === i ? -1 : i)}
                >
                  <b>{title}</b>
                  <small>
                    {q.pages.length > 0 ? q.pages.join(", ") : t`all pages`}
                    {a ? ` · ${languageName(a.language ?? "en")}` : ""}
                    {a?.read ? <ReadBy read={a.read} /> : null}
                  </small>
                </button>
                <Button aria-label={t`Move ${title} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                  <Icons.Up />
                </Button>
                <Button
                  aria-label={t`Move ${title} down`}
                  disabled={i === help.faqs.length - 1}
                  onClick={() => move(i, 1)}
                >
                  <Icons.Down />
                </Button>
                <Button
                  aria-label={t`Take ${title} out`}
                  onClick={() => put({ faqs: help.faqs.filter((_, at) => at !== i) })}
                >
                  <Icons.Bin />
                </Button>
              </div>
              <Wrong words={wrongAt(`help.faqs.${i}.article`)} />
              {open === i || wrongAt(`help.faqs.${i}.pages`) ? (
                <PagePatterns
                  label={t`Shown on`}
                  value={q.pages}
                  change={(pages) => edit(i, pages)}
                  wrong={wrongAt(`help.faqs.${i}.pages`)}
                  placeholder={t`all pages`}
                  hint={t`Like /fares, /freight*; with commas between them`}
                />
              ) : null}
            </li>
          );
        })}
      </ol>
      <Wrong words={wrongAt("help.faqs")} />
      {articles.isSuccess && all.length === 0 ? (
        <p className="about">
          <Trans>No article is for visitors yet.</Trans>
        </p>
      ) : (
        <Select
          label={t`Add an article`}
          value=""
          change={(article) => article && put({ faqs: [...help.faqs, { article, pages: [] }] })}
          options={[
            { value: "", label: free.length > 0 ? t`choose` : t`all are in the list` },
            ...free.map((a) => ({
              value: a.id ?? "",
              label: `${a.title} · ${languageName(a.language ?? "en")}`,
            })),
          ]}
        />
      )}
    </>
  );
}
