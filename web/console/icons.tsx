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
  Passing: icon(<path d="M2 5.500h10.500M10 3l2.500 2.500L10 8M14 10.500H3.500M6 8l-2.500 2.500L6 13" />),
  Back: icon(<path d="M6 3 2.500 6.500 6 10M2.500 6.500H9a4.500 4.500 0 0 1 0 7H6" />),
  Person: icon(
    <>
      <circle cx="8" cy="5" r="2.500" />
      <path d="M3 14c0-3 2-5 5-5s5 2 5 5" />
    </>,
  ),
  Letter: icon(<path d="M1.500 3.500h13v9h-13ZM2 4l6 5 6-5" />),
  Info: icon(
    <>
      <circle cx="8" cy="8" r="6.500" />
      <path d="M8 7.200v4M8 4.600v.1" />
    </>,
  ),
  Grip: icon(<path d="M5 4h6M5 8h6M5 12h6" />),
  Plus: icon(<path d="M8 3v10M3 8h10" />),
  Bin: icon(<path d="M2.500 4.500h11M6 4.500v-2h4v2M4 4.500l.7 9h6.600l.7-9" />),
  Sign: icon(<path d="M8 14.500v-12M8 3h5l1.500 1.500L13 6H8M8 7.500H3.500L2 9l1.500 1.500H8" />),
  Down: icon(<path d="m4 6 4 4 4-4" />),
};
