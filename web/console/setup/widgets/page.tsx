import "./widgets.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../../shared/api";
import { useEdited } from "../../forms/editing";
import { Picker } from "../../forms/parts";
import { useSaving } from "../../forms/saving";
import { Button } from "../../kit/button";
import { LoadTrouble, Wrong } from "../../kit/states";
import { WidgetEditor } from "./editor";
import { NameAndSiteFields } from "./name-and-site";

/** The chats on the sites: a list, and the editor of the one that is picked. */
export function WidgetsPage() {
  const widgets = useQuery({
    queryKey: ["setup", "widgets"],
    queryFn: () => ask(api.GET("/api/setup/widgets")),
  });
  const choices = useQuery({
    queryKey: ["setup", "widget-choices"],
    queryFn: () => ask(api.GET("/api/setup/widget-choices")),
    staleTime: Infinity,
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("widget");
  const failed = [widgets, choices].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!widgets.data || !choices.data) return <section className="loading" aria-busy="true" />;
  const shown = widgets.data.find((w) => w.key === open) ?? widgets.data[0];
  const adds = open === "new" || !shown;
  return (
    <div className="two widgets">
      <Picker
        title={t`Widgets`}
        shown={adds ? "new" : shown.key}
        pick={setOpen}
        items={widgets.data.map((w) => ({
          id: w.key,
          name: w.design.name,
          about: (
            <>
              <span>{w.design.sites.map((s) => s.replace(/^https?:\/\//, "")).join(", ")}</span>
              <span className={w.off ? "" : "is-open"}>
                {!w.off ? t`on the site` : w.published ? t`switched off` : t`not published yet`}
                {w.draft ? t` · draft` : ""}
              </span>
            </>
          ),
          unsaved: edited.has(w.key),
        }))}
      />
      {adds ? (
        <NewWidget made={setOpen} />
      ) : (
        <WidgetEditor key={shown.key} kept={shown} choices={choices.data} removed={() => setOpen("")} />
      )}
    </div>
  );
}

function NewWidget({ made }: { made: (key: string) => void }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const [fresh, setFresh] = useState({ name: "", site: "" });
  const { name } = fresh;
  const add = () =>
    void saving.run(
      async () => {
        const w = await ask(api.POST("/api/setup/widgets", { body: fresh }));
        await queries.invalidateQueries({ queryKey: ["setup", "widgets"] });
        made(w.key);
      },
      t`${name} made. It is on no page until you publish it`,
    );
  return (
    <section className="editor" aria-label={t`New widget`}>
      <header>
        <h2>
          <Trans>New widget</Trans>
        </h2>
      </header>
      <form
        className="body"
        onSubmit={(event) => {
          event.preventDefault();
          add();
        }}
      >
        <p className="about">
          <Trans>
            A widget is the chat as it stands on one site, or on a part of it. You choose its looks and words
            next, and publish it when you like it.
          </Trans>
        </p>
        <div className="fields">
          <NameAndSiteFields value={fresh} change={setFresh} saving={saving} />
        </div>
        <Wrong words={saving.trouble} />
        <Button type="submit" variant="contained" disabled={saving.busy || !name.trim()}>
          <Trans>Make the widget</Trans>
        </Button>
      </form>
    </section>
  );
}
