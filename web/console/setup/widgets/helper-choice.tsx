import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, ask } from "../../../shared/api";
import { Choice } from "../../kit/choice";
import { NumberField } from "../../kit/field";
import { Select } from "../../kit/select";
import { LoadTrouble, Wrong } from "../../kit/states";
import type { PartProps } from "./editor";

/** When the helper answers before a person does, and by which flow. */
export function HelperChoice({ design, change, wrongAt }: Pick<PartProps, "design" | "change" | "wrongAt">) {
  const { helper } = design;
  const put = (part: Partial<typeof helper>) => change({ helper: { ...helper, ...part } });
  const flows = useQuery({ queryKey: ["setup", "flows"], queryFn: () => ask(api.GET("/api/setup/flows")) });
  if (flows.isError) return <LoadTrouble error={flows.error} again={() => void flows.refetch()} />;
  const live = (flows.data ?? []).filter((f) => f.liveVersion > 0);
  const gone = helper.flow !== "" && flows.isSuccess && !live.some((f) => f.id === helper.flow);
  return (
    <>
      <h3>
        <Trans>Helper</Trans>
      </h3>
      <p className="about">
        <Trans>
          It answers by a flow that you write, and visitors see that it is automatic. A person is one press
          away at each step.
        </Trans>{" "}
        <Link to="/setup/helper">
          <Trans>Write flows</Trans>
        </Link>
      </p>
      <Choice
        label={t`It answers`}
        value={helper.when}
        change={(when) =>
          put({ when, ...(when !== "never" && helper.flow === "" && live[0] ? { flow: live[0].id } : {}) })
        }
        options={[
          { value: "never", words: t`Never` },
          { value: "always", words: t`Always first` },
          { value: "nobody", words: t`When nobody is in` },
          { value: "wait", words: t`When a visitor has waited` },
        ]}
      />
      <Wrong words={wrongAt("helper.when")} />
      {helper.when === "never" ? null : (
        <div className="fields">
          <Select
            label={t`Flow`}
            value={gone ? "" : helper.flow}
            change={(flow) => put({ flow })}
            wrong={wrongAt("helper.flow")}
            options={[
              {
                value: "",
                label: gone
                  ? t`(not published any more)`
                  : live.length > 0
                    ? t`choose`
                    : t`no flow is published yet`,
              },
              ...live.map((f) => ({ value: f.id, label: f.flow.name })),
            ]}
          />
          {helper.when === "wait" ? (
            <NumberField
              label={t`After`}
              unit={t`seconds`}
              value={helper.seconds}
              change={(seconds) => put({ seconds })}
              wrong={wrongAt("helper.seconds")}
              hint={t`The visitor keeps their place in the queue`}
            />
          ) : null}
        </div>
      )}
    </>
  );
}
