import { Trans } from "@lingui/react/macro";
/** The word mark with its three steps. */
export function Brand() {
  return (
    <span className="brand">
      <svg viewBox="0 0 24 20" aria-hidden="true">
        <path d="M0 20v-6h8V8h8V1h8v19z" />
      </svg>
      <Trans>Stoop</Trans>
    </span>
  );
}
