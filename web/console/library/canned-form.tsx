import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useRef } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError } from "../../shared/problem";
import { fileSize, refusal, upload } from "../../shared/upload";
import type { CannedView, FileView } from "../../shared/types";
import { useMe, useTeam } from "../desk/provider";
import { Icons } from "../icons";
import type { Saving } from "../forms/saving";
import { IconButton } from "../kit/button";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { TextField } from "../kit/text-field";

/** What a response is called before it is stored. */
export const freshCanned: CannedView = {
  version: 0,
  scope: "own",
  shortcut: "",
  text: "",
  folder: "",
  language: "",
  files: [],
  uses: 0,
  myUses: 0,
  mayEdit: true,
};

/** The placeholders that every chat can fill. */
export // With what stands for a name that is unknown.
const example = "{visitor.first|there}";

const placeholders = [
  ["visitor.name", t`the visitor's name`],
  ["visitor.first", t`first word of that name`],
  ["visitor.email", t`their email`],
  ["operator.name", t`your name`],
  ["operator.first", t`first word of that name`],
  ["page.title", t`the page they are on`],
  ["page.url", t`its address`],
  ["department.name", t`the chat's department`],
] as const;

/** Stores a response; new ones get their id from the answer. */
export function saveCanned(canned: CannedView): Promise<CannedView> {
  return ask(api.PUT("/api/canned", { body: canned }));
}

interface Props {
  canned: CannedView;
  change: (part: Partial<CannedView>) => void;
  saving: Saving;
}

/** The fields of a canned response. */
export function CannedFields({ canned, change, saving }: Props) {
  const { wrongAt } = saving;
  const departments = useTeam((s) => s.departments);
  const me = useMe();
  const text = useRef<HTMLTextAreaElement>(null);
  const lead = me.role !== "operator";
  const scope = canned.scope === "department" ? `department:${canned.departmentId ?? ""}` : canned.scope;
  const put = (name: string) => {
    const at = text.current?.selectionStart ?? canned.text.length;
    change({ text: `${canned.text.slice(0, at)}{${name}|}${canned.text.slice(at)}` });
    requestAnimationFrame(() => {
      text.current?.focus();
      text.current?.setSelectionRange(at + name.length + 2, at + name.length + 2);
    });
  };
  return (
    <>
      <div className="fields">
        <TextInput
          label={t`Shortcut`}
          value={canned.shortcut}
          change={(shortcut) => change({ shortcut })}
          wrong={wrongAt("shortcut")}
          hint={t`One word. Typing it, or ; and the word, suggests the response`}
          most={60}
        />
        <Select
          label={t`Shared with`}
          value={scope}
          wrong={wrongAt("scope")}
          options={[
            { value: "own", label: t`only me` },
            ...(lead ? [{ value: "common", label: "everybody" }] : []),
            ...(lead ? departments.map((d) => ({ value: `department:${d.id}`, label: d.name })) : []),
            ...(lead || canned.scope === "own" ? [] : [{ value: scope, label: t`shared; leads change it` }]),
          ]}
          change={(v) => {
            const [kind, id] = v.split(":");
            change(
              kind === "department" && id
                ? { scope: "department", departmentId: id }
                : { scope: kind as CannedView["scope"] },
            );
          }}
        />
        <TextInput
          label={t`Folder`}
          value={canned.folder}
          change={(folder) => change({ folder })}
          wrong={wrongAt("folder")}
          most={100}
        />
        <TextInput
          label={t`Language`}
          value={canned.language}
          placeholder={t`any`}
          change={(language) => change({ language })}
          wrong={wrongAt("language")}
          hint={t`A code like en. Suggested first for visitors who use that language`}
          most={35}
        />
      </div>
      <TextField
        label={t`Answer`}
        value={canned.text}
        inputRef={text}
        multiline
        minRows={4}
        maxRows={14}
        fullWidth
        error={wrongAt("text") !== undefined}
        helperText={
          wrongAt("text") ??
          t`Placeholders are filled in from the chat. ${example} becomes “there” when the name is unknown`
        }
        onChange={(e) => change({ text: e.target.value })}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <div className="placeholders" role="group" aria-label={t`Placeholders`}>
        {placeholders.map(([name, means]) => (
          <button key={name} type="button" title={means} onClick={() => put(name)}>
            {`{${name}}`}
          </button>
        ))}
      </div>
      <Files files={canned.files} change={(files) => change({ files })} saving={saving} />
    </>
  );
}

function Files({
  files,
  change,
  saving,
}: {
  files: FileView[];
  change: (files: FileView[]) => void;
  saving: Saving;
}) {
  const limits = useTeam((s) => s.files);
  const add = async (list: File[]) => {
    const kept: FileView[] = [];
    for (const file of list) {
      await saving.run(
        async () => {
          const why = refusal(file, limits);
          if (why) throw refusedError(why);
          const query = new URLSearchParams({ name: file.name });
          kept.push(
            await upload<FileView>(`/api/canned/files?${query.toString()}`, file, () => undefined).done,
          );
        },
        t`${file.name} is uploaded. Save to keep it with the response`,
      );
    }
    change([...files, ...kept]);
  };
  return (
    <div className="canned-files">
      {files.map((f) => (
        <span key={f.id} className="tag">
          <Icons.Clip /> {f.name} ({fileSize(f.size)})
          <IconButton
            size="small"
            aria-label={t`Remove ${f.name}`}
            onClick={() => change(files.filter((o) => o.id !== f.id))}
          >
            <Icons.Close />
          </IconButton>
        </span>
      ))}
      <label className="add-file">
        <Icons.Clip /> <Trans>Add a file</Trans>
        <input
          type="file"
          multiple
          onChange={(e) => {
            void add([...(e.target.files ?? [])]);
            e.target.value = "";
          }}
        />
      </label>
    </div>
  );
}

/** Says of a file that it is not even sent. */
function refusedError(title: string): ProblemError {
  return new ProblemError({
    type: "about:blank",
    status: 413,
    code: "refused",
    retry: false,
    title,
    detail: "Choose another one.",
  });
}
