import { t } from "@lingui/core/macro";

/** A receiver: somebody wants to be called. */
export function PhoneIcon() {
  return (
    <svg className="icon" viewBox="0 0 16 16" role="img" aria-label={t`Call`}>
      <path d="M4.500 1.500 6.500 5 5 6.500c.7 1.800 2.200 3.600 4.500 4.500L11 9.500l3.500 2-1 3c-6 .5-11.500-5-11.500-12Z" />
    </svg>
  );
}
