import type { ReactNode } from "react";

function icon(path: ReactNode) {
  return function Icon({ title }: { title?: string }) {
    return (
      <svg
        className="icon"
        viewBox="0 0 16 16"
        role={title ? "img" : undefined}
        aria-hidden={title ? undefined : true}
      >
        {title ? <title>{title}</title> : null}
        {path}
      </svg>
    );
  };
}

/** Our own icons, on a 16 px grid, drawn with the current colour. */
export const Icons = {
  Hourglass: icon(<path d="M4 2h8M4 14h8M5 2v2.5L8 8l3-3.500V2M5 14v-2.500L8 8l3 3.500V14" />),
  Warning: icon(<path d="M8 2.500 14.500 13.500H1.500ZM8 6.500v3.500M8 12v.1" />),
  Eye: icon(
    <>
      <path d="M1.500 8S4 3.500 8 3.500 14.500 8 14.500 8 12 12.500 8 12.500 1.500 8 1.500 8Z" />
      <circle cx="8" cy="8" r="2" />
    </>,
  ),
  Door: icon(<path d="M3.500 14.500V1.500h7v13M1.500 14.500h13M8 8v.1" />),
  Check: icon(<path d="m2.500 8.500 3.500 3.500 7.500-8" />),
  Close: icon(<path d="m3.500 3.500 9 9M12.500 3.500l-9 9" />),
  Search: icon(
    <>
      <circle cx="7" cy="7" r="4.500" />
      <path d="m10.500 10.500 4 4" />
    </>,
  ),
  Live: icon(<path d="M1 9h3l2-5 3 8 2-5 1 2h3" />),
  Lost: icon(
    <path d="m2 2 12 12M4 7.500a7 7 0 0 1 2-1M8 6c2 0 3.500.7 4.500 1.700M6.500 10.500a3 3 0 0 1 3 .2M8 13v.1" />,
  ),
  Lanes: icon(<path d="M2 3h5v10H2ZM9 3h5v10H9Z" />),
  Pause: icon(<path d="M5.500 3v10M10.500 3v10" />),
  Down: icon(<path d="m4 6 4 4 4-4" />),
};
