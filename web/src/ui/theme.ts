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
