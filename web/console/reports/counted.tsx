import { Trans } from "@lingui/react/macro";

import { definition } from "../words/definitions";

/** Says how figures are counted, by the codes of their definitions. */
export function Counted({ codes }: { codes: string[] }) {
  return (
    <details className="counted">
      <summary>
        <Trans>How is this counted?</Trans>
      </summary>
      {codes.map((code) => (
        <p key={code}>{definition(code)}</p>
      ))}
    </details>
  );
}
