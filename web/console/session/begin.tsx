import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { api, ask } from "../../shared/api";
import { usePageTitle } from "../kit/page-title";
import { AccountForm } from "./account-form";

/** Where the first admin makes their account; setting up goes on from there. */
export function Begin({ proof }: { proof: string }) {
  usePageTitle(t`Set up Stoop`);
  const params = { path: { proof } };
  return (
    <AccountForm
      link={proof}
      check={async () => {
        await ask(api.GET("/api/begin/{proof}", { params }));
        return true;
      }}
      words={() => (
        <Trans>
          Welcome. First your own account; then your site, who answers, and the chat itself. You can stop at
          any step and go on later.
        </Trans>
      )}
      fields={["name", "email", "password"]}
      first={() => ({})}
      button={t`Make my account`}
      make={async (body) => {
        await ask(api.POST("/api/begin/{proof}", { params, body }));
        location.replace("/setup/start");
      }}
    />
  );
}
