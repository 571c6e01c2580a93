import { Trans } from "@lingui/react/macro";

/** Warns when the server calls itself by another address than the one that is used here: the line would lead nowhere. */
export function Reached({ link }: { link: string }) {
  const said = new URL(link).origin;
  if (said === location.origin) return null;
  return (
    <p className="weak" role="status">
      <Trans>
        The line leads to {said}, but you are at {location.origin}. If visitors reach Stoop here, whoever runs
        the server sets STOOP_URL to this address first.
      </Trans>
    </p>
  );
}
