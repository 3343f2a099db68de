/** Light or dark: what the system says, until someone chooses. */
export function applyTheme(): void {
	const chosen = localStorage.getItem("theme");
	const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
	document.documentElement.dataset.theme = dark ? "dark" : "light";
}

export function toggleTheme(): void {
	const dark = document.documentElement.dataset.theme === "dark";
	localStorage.setItem("theme", dark ? "light" : "dark");
	applyTheme();
	dispatchEvent(new Event("themechange"));
}

/** How somebody likes things shown, wherever they sign in. */
export function keepManners(manners: Record<string, string> | undefined): void {
	if (!manners?.theme || !manners.dates) return;
	if (manners.theme === "auto") localStorage.removeItem("theme");
	else localStorage.setItem("theme", manners.theme);
	localStorage.setItem("dates", manners.dates);
	applyTheme();
}
