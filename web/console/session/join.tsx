import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { api, ask } from "../../shared/api";
import type { OperatorView } from "../../shared/types";
import { usePageTitle } from "../kit/page-title";
import { AccountForm } from "./account-form";

interface Props {
  token: string;
  onDone: (me: OperatorView) => void;
}

/** Where somebody joins the team who was invited. */
export function Join({ token, onDone }: Props) {
  usePageTitle(t`Join the team`);
  const params = { path: { token } };
  return (
    <AccountForm
      link={token}
      check={() => ask(api.GET("/api/join/{token}", { params }))}
      words={(who) => (
        <Trans>
          Welcome. You join as <b>{who.email}</b>. Choose a password that nobody else knows.
        </Trans>
      )}
      fields={["name", "password"]}
      first={(who) => ({ name: who.name })}
      button={t`Join the team`}
      make={async ({ name, password }) => {
        const me = await ask(api.POST("/api/join/{token}", { params, body: { name, password } }));
        history.replaceState(null, "", "/desk");
        onDone(me);
      }}
    />
  );
}
