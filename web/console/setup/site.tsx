import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { SiteSettings, Topic } from "../../shared/types";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { LoadTrouble, Wrong } from "../kit/states";

/** What is watched on the sites: visits, interest, and what is not asked or kept. */
export function SitePage() {
  const settings = useQuery({ queryKey: ["setup", "site"], queryFn: () => ask(api.GET("/api/setup/site")) });
  if (settings.isError) return <LoadTrouble error={settings.error} again={() => void settings.refetch()} />;
  if (!settings.data) return <section className="loading" aria-busy="true" />;
  return <Form kept={settings.data} />;
}

function Form({ kept }: { kept: SiteSettings }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing("site", kept);
  const s = editing.value;
  const change = (part: Partial<SiteSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const privacy = (part: Partial<SiteSettings["privacy"]>) => change({ privacy: { ...s.privacy, ...part } });
  const interest = (part: Partial<SiteSettings["interest"]>) =>
    change({ interest: { ...s.interest, ...part } });
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/site", { body: s })));
        await queries.invalidateQueries({ queryKey: ["setup", "site"] });
      },
      t`Settings of the site saved`,
    );
  const points = (
    label: string,
    field: "minute" | "minutesMost" | "basket" | "basketStep" | "basketMost" | "return" | "returnMost",
  ) => (
    <NumberField
      label={label}
      value={s.interest[field]}
      change={(value) => interest({ [field]: value })}
      wrong={wrongAt(`interest.${field}`)}
    />
  );
  return (
    <section className="editor" aria-label={t`Site`}>
      <header>
        <h2>
          <Trans>Site</Trans>
        </h2>
      </header>
      <div className="body">
        <h3>
          <Trans>Visits</Trans>
        </h3>
        <div className="fields">
          <NumberField
            label={t`A visit ends after silence of`}
            unit={t`minutes`}
            value={s.silenceMinutes}
            change={(silenceMinutes) => change({ silenceMinutes })}
            wrong={wrongAt("silenceMinutes")}
            hint={t`30 is usual.`}
          />
          <TextInput
            label={t`Time zone of the site`}
            value={s.zone}
            change={(zone) => change({ zone })}
            wrong={wrongAt("zone")}
            placeholder={t`the team's`}
            most={60}
          />
        </div>
        <Tick checked={s.newSource} change={(newSource) => change({ newSource })}>
          <Trans>Coming from another campaign or site begins another visit</Trans>
        </Tick>
        <Tick checked={s.midnight} change={(midnight) => change({ midnight })}>
          <Trans>Midnight ends all visits</Trans>
        </Tick>
        <h3>
          <Trans>Interest</Trans>
        </h3>
        <p className="about">
          <Trans>
            Each visitor has a score from 0 to 100. It is the sum of these points and nothing else, and
            operators see what it is made of. It judges pages and baskets, never people.
          </Trans>
        </p>
        <div className="fields">
          {points(t`For each minute of reading`, "minute")}
          {points(t`at most`, "minutesMost")}
          {points(t`For each earlier visit`, "return")}
          {points(t`at most`, "returnMost")}
        </div>
        <div className="fields">
          {points(t`For something in the basket`, "basket")}
          {points(t`and 1 more for each`, "basketStep")}
          {points(t`at most`, "basketMost")}
        </div>
        <h3>
          <Trans>Topics</Trans>
        </h3>
        <Topics list={s.interest.topics} change={(topics) => interest({ topics })} wrongAt={wrongAt} />
        <h3>
          <Trans>Privacy</Trans>
        </h3>
        <Tick checked={s.privacy.collectNothing} change={(collectNothing) => privacy({ collectNothing })}>
          <Trans>Collect nothing: no page and no address is kept, and nobody is shown on the site</Trans>
        </Tick>
        <Tick
          checked={s.privacy.globalPrivacyControl}
          change={(globalPrivacyControl) => privacy({ globalPrivacyControl })}
        >
          <Trans>Collect nothing of browsers that send Global Privacy Control</Trans>
        </Tick>
        <Tick checked={s.privacy.doNotTrack} change={(doNotTrack) => privacy({ doNotTrack })}>
          <Trans>Collect nothing of browsers that send Do Not Track</Trans>
        </Tick>
        <Tick checked={s.privacy.shortenAddress} change={(shortenAddress) => privacy({ shortenAddress })}>
          <Trans>Keep addresses without their last part</Trans>
        </Tick>
        <Tick checked={s.privacy.askConsent} change={(askConsent) => privacy({ askConsent })}>
          <Trans>Ask visitors before anything is collected</Trans>
        </Tick>
        <div className="fields">
          {s.privacy.askConsent ? (
            <TextInput
              label={t`What they are asked`}
              value={s.privacy.consentText}
              change={(consentText) => privacy({ consentText })}
              wrong={wrongAt("privacy.consentText")}
              most={300}
            />
          ) : null}
          <TextInput
            label={t`Parameters of page addresses that are kept`}
            value={s.privacy.queryParameters.join(", ")}
            change={(text) => privacy({ queryParameters: split(text) })}
            wrong={wrongAt("privacy.queryParameters")}
            hint={t`All others are dropped: they may hold names and secrets.`}
            most={600}
          />
        </div>
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}

/** Reads what stands between commas; an end that is being typed stays. */
function split(text: string): string[] {
  return text.split(",").map((part, i, all) => (i === all.length - 1 ? part.trimStart() : part.trim()));
}

interface TopicsProps {
  list: Topic[];
  change: (list: Topic[]) => void;
  wrongAt: (field: string) => string | undefined;
}

function Topics({ list, change, wrongAt }: TopicsProps) {
  const set = (i: number, part: Partial<Topic>) =>
    change(list.map((one, at) => (at === i ? { ...one, ...part } : one)));
  return (
    <div className="topics">
      {list.map((topic, i) => (
        <div key={i} className="fields">
          <TextInput
            label={t`Topic`}
            value={topic.name}
            change={(name) => set(i, { name })}
            wrong={wrongAt(`interest.topics.${i}.name`)}
            most={60}
          />
          <TextInput
            label={t`Pages`}
            value={topic.pages.join(", ")}
            change={(text) => set(i, { pages: split(text) })}
            wrong={wrongAt(`interest.topics.${i}.pages`)}
            placeholder={t`/freight*, /lorries`}
            most={2000}
          />
          <NumberField
            label={t`Points for each page`}
            value={topic.points}
            change={(points) => set(i, { points })}
            wrong={wrongAt(`interest.topics.${i}.points`)}
          />
          <NumberField
            label={t`at most`}
            value={topic.most}
            change={(most) => set(i, { most })}
            wrong={wrongAt(`interest.topics.${i}.most`)}
          />
          <Button startIcon={<Icons.Bin />} onClick={() => change(list.filter((_, at) => at !== i))}>
            <Trans>Remove</Trans>
          </Button>
        </div>
      ))}
      <Button
        startIcon={<Icons.Plus />}
        onClick={() => change([...list, { name: "", pages: [], points: 10, most: 30 }])}
      >
        <Trans>Add a topic</Trans>
      </Button>
      <Wrong words={wrongAt("interest.topics")} />
    </div>
  );
}
