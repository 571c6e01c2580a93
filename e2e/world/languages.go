package world

import "strings"

// Speaks is a script that lets a browser ask for a language.
func Speaks(language string) string {
	return strings.ReplaceAll(`
		Object.defineProperty(navigator, "languages", { get: () => ["%"] });
		Object.defineProperty(navigator, "language", { get: () => "%" });
		// Pages are in it as well: what a page is written in counts before the browser.
		new MutationObserver((_, watch) => {
			if (!document.documentElement) return;
			document.documentElement.lang = "%";
			watch.disconnect();
		}).observe(document, { childList: true });`, "%", language)
}

// KeepsData is a script that remembers all texts that come from the server, which
// are nobody's to translate in the page.
const KeepsData = `
	window.__data = new Set();
	const take = (value) => {
		if (typeof value === "string") window.__data.add(value);
		else if (value && typeof value === "object") for (const [key, part] of Object.entries(value)) { take(part); window.__data.add(key); }
	};
	const ask = window.fetch;
	window.fetch = async (...all) => {
		const answer = await ask(...all);
		answer.clone().json().then(take, () => undefined);
		return answer;
	};`

// Untranslated returns the texts on a page, and the names of its controls, that
// stand in plain letters though a made-up language of accented ones is spoken, and
// that did not come from the server.
func (p *Tab) Untranslated() string {
	p.T.Helper()
	return p.JS(`(() => {
		const plain = /[A-Za-z]{3,}/, found = new Set();
		// Names of days and months are those of the locale that dates are written in.
		const names = [...Array(12).keys()].flatMap(n => ["long", "short"].flatMap(length => [
			new Date(2026, n, 1).toLocaleString("en-GB", { month: length }), new Date(2026, 0, 1 + n).toLocaleString("en-GB", { weekday: length })]));
		const data = [...(window.__data ?? []), ...names].filter(d => d.length > 2).sort((a, b) => b.length - a.length);
		const look = (text, where) => {
			const words = text.replace(/\s+/g, " ").trim();
			if (!plain.test(words) || /[^\x00-\x7f·…“”’×↑⌃⌥⇧⌘]/.test(words)) return;
			let rest = words;
			for (const d of data) if (rest.includes(d.trim())) rest = rest.split(d.trim()).join(" ");
			if (plain.test(rest)) found.add(where + ": " + words);
		};
		const nodes = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
		for (let n = nodes.nextNode(); n; n = nodes.nextNode()) {
			const of = n.parentElement;
			if (!of || of.closest("script,style,bdi,[dir=auto],.key,.clock,code,time,.emoji-list,option,.plate,.brand,[lang]")) continue;
			if (of.checkVisibility()) look(n.data, of.tagName.toLowerCase() + "." + of.className);
		}
		for (const e of document.body.querySelectorAll("[aria-label],[placeholder],[title]"))
			for (const name of ["aria-label", "placeholder", "title"])
				if (e.hasAttribute(name) && e.checkVisibility() && !e.closest("bdi,.emoji-list")) look(e.getAttribute(name), name);
		return [...found].join("\n");
	})()`)
}

// Clipped returns the controls whose words are cut off without a sign of it.
func (p *Tab) Clipped() string {
	p.T.Helper()
	return p.JS(`(() => {
		const found = [];
		for (const e of document.body.querySelectorAll("button, a, label, th, h1, h2, h3, [role=tab], [role=menuitem]")) {
			if (!e.checkVisibility() || e.closest(".sr-only,.cut,script") || e.querySelector(".cut")) continue;
			const style = getComputedStyle(e), r = e.getBoundingClientRect();
			if (r.width < 2 || r.height < 2) continue;
			const hidden = style.overflowX !== "visible" && e.scrollWidth > e.clientWidth + 1 && style.textOverflow !== "ellipsis";
			let within = false;
			for (let a = e.parentElement; a && a !== document.body; a = a.parentElement) {
				const s = getComputedStyle(a);
				if (s.overflowX === "auto" || s.overflowX === "scroll") break;
				if (s.overflowX === "visible" && !/paint|strict|content/.test(s.contain)) continue;
				const box = a.getBoundingClientRect();
				if (r.left < box.left - 1 || r.right > box.right + 1) within = true;
			}
			const outside = r.left < -1 || r.right > innerWidth + 1;
			if (within) found.push("cut " + e.tagName + " " + e.innerText.slice(0, 60));
			if (hidden || (outside && !e.closest("[hidden],.MuiTabs-root,nav,table,.week,.lanes,.halls"))) found.push((hidden ? "hidden " : "outside ") + e.tagName + " " + e.innerText.slice(0, 60));
		}
		if (document.documentElement.scrollWidth > innerWidth + 1) found.push("the page is " + document.documentElement.scrollWidth + " wide");
		return found.join("\n");
	})()`)
}
