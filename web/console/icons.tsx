import type { ReactNode } from "react";

/** Draws an icon of a path on a 16 px grid. */
export function icon(path: ReactNode) {
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
  Gauge: icon(<path d="M2 13h12M3.500 11v-2M8 11V6M12.500 11V3" />),
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
  Languages: icon(
    <path d="m1.500 10.500 3-8 3 8M2.600 8h3.800M9.500 4.500h5M13 3l1.500 1.500L13 6M14.500 11.500h-5M11 10l-1.500 1.500L11 13" />,
  ),
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
  Minus: icon(<path d="M3 8h10" />),
  Bin: icon(<path d="M2.500 4.500h11M6 4.500v-2h4v2M4 4.500l.7 9h6.600l.7-9" />),
  Sign: icon(<path d="M8 14.500v-12M8 3h5l1.500 1.500L13 6H8M8 7.500H3.500L2 9l1.500 1.500H8" />),
  Clip: icon(
    <path d="M13 7.500 7.700 12.800a3 3 0 0 1-4.300-4.300L9 2.900a2 2 0 0 1 2.900 2.900L6.500 11.200a1 1 0 0 1-1.400-1.400L10 4.900" />,
  ),
  Face: icon(
    <>
      <circle cx="8" cy="8" r="6.500" />
      <path d="M5.500 6.500v.4M10.500 6.500v.4M5 9.500c1.500 2.500 4.500 2.500 6 0" />
    </>,
  ),
  Answers: icon(<path d="M2 3h6v10H2ZM8 3h6v10H8M10.500 6H12M10.500 8.500H12M4 6h2M4 8.500h2" />),
  Page: icon(
    <path d="M3 2.500c2 0 4 .500 5 1.500 1-1 3-1.500 5-1.500v10c-2 0-4 .500-5 1.500-1-1-3-1.500-5-1.500ZM8 4v10" />,
  ),
  Note: icon(<path d="M2.500 2.500h11v7l-4 4h-7ZM13.500 9.500h-4v4M5 5.500h6M5 8h3" />),
  Microphone: icon(
    <path d="M8 1.500a2 2 0 0 1 2 2v4a2 2 0 0 1-4 0v-4a2 2 0 0 1 2-2ZM3.500 7.500a4.500 4.500 0 0 0 9 0M8 12v2.500M5.500 14.500h5" />,
  ),
  Stop: icon(<path d="M4 4h8v8H4Z" />),
  More: icon(<path d="M3 8h.1M8 8h.1M13 8h.1" />),
  Window: icon(<path d="M2 4.500V13h8.500V4.500ZM5.500 4.500v-2H14V10h-3.500" />),
  Alone: icon(<path d="M1.500 3h13v10h-13ZM5 3v10" />),
  Ring: icon(
    <>
      <circle cx="8" cy="8" r="6.500" />
      <circle cx="8" cy="8" r="2.500" />
      <path d="m3.500 3.500 2.700 2.700M9.800 9.800l2.700 2.700M12.500 3.500 9.800 6.200M6.200 9.800l-2.700 2.700" />
    </>,
  ),
  Table: icon(<path d="M1.500 3h8v6h-4l-2.500 2v-2H1.500ZM12 6.500h2.500V12H13v2l-2.500-2H7.500V11" />),
  Tag: icon(<path d="M2 2.500h5.500L14 9l-5 5-6.500-6.500ZM5 5.500v.1" />),
  File: icon(<path d="M3.500 1.500h6l3 3v10h-9ZM9.500 1.500v3h3" />),
  Picture: icon(<path d="M1.500 3h13v10h-13ZM2 11.500l3.500-4 3 3 2-2 3.500 3.500M10.500 5.800v.1" />),
  Play: icon(<path d="M5 3v10l8-5Z" />),
  Pencil: icon(<path d="m2.500 13.500.7-3L10.500 3l2.500 2.500-7.500 7.300ZM9 4.500 11.500 7" />),
  Copy: icon(<path d="M5.500 5.500h8v8h-8ZM5.500 10.500h-3v-8h8v3" />),
  Shut: icon(
    <>
      <circle cx="8" cy="8" r="6.500" />
      <path d="m3.500 12.500 9-9" />
    </>,
  ),
  Keys: icon(
    <path d="M1.500 4h13v8h-13ZM4 6.700h.1M6.700 6.700h.1M9.300 6.700h.1M12 6.700h.1M4.500 9.500h7" />,
  ),
  Bell: icon(<path d="M4 11V7a4 4 0 0 1 8 0v4l1.500 1.500h-11ZM6.500 14.500h3" />),
  Dot: icon(<circle cx="8" cy="8" r="3" fill="currentColor" />),
  Open: icon(<path d="M9 2.500h4.500V7M13.500 2.500 7.500 8.500M11.500 9.500v4h-9v-9h4" />),
  Download: icon(<path d="M8 2v8M4.500 7 8 10.500 11.500 7M2.500 13.500h11" />),
  Upload: icon(<path d="M8 10.500v-8M4.500 6 8 2.500 11.500 6M2.500 13.500h11" />),
  Ear: icon(
    <path d="M5 14c2 0 2-1.500 2.500-3S11 9 11 6.500a3.700 3.700 0 0 0-7.400 0M6 7a1.500 1.500 0 0 1 3-.5" />,
  ),
  Down: icon(<path d="m4 6 4 4 4-4" />),
  Up: icon(<path d="m4 10 4-4 4 4" />),
};
