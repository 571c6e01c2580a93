/**
 * What marks styles as ours under the page's content policy. It is put where
 * libraries look for it that make styles of their own: this module must be
 * imported before any of them.
 */
export const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";

(window as { __nonce__?: string }).__nonce__ = nonce;
