/** Returns what the browser allows: granted, denied, or default when never asked. */
export function desktopNotices(): NotificationPermission {
  return "Notification" in window ? Notification.permission : "denied";
}

/** Asks the person whether Stoop may show notifications. */
export async function askForDesktopNotices(): Promise<void> {
  if ("Notification" in window) await Notification.requestPermission();
}

/** Shows a notification, if allowed; a click brings this tab to the front. */
export function showDesktopNotice(title: string, body: string, tag: string): void {
  if (desktopNotices() !== "granted") return;
  const notice = new Notification(title, { body, tag, icon: "/favicon.svg" });
  notice.onclick = () => {
    window.focus();
    notice.close();
  };
}
