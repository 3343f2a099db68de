/** Names of switches as few words: those that count on are told as a range. */
const TAIL = /^(.*?)(\d+)([a-z]?)$/;

/** `leaf-r01a, leaf-r02a, leaf-r03a` → `leaf-r01a … leaf-r03a`; after `most` words the rest is counted. */
export function contracted(names: readonly string[], most = 8): string {
	const words: string[] = [];
	for (let at = 0; at < names.length; ) {
		let to = at;
		while (to + 1 < names.length && follows(names[to] ?? "", names[to + 1] ?? "")) to++;
		const [first, last] = [names[at] ?? "", names[to] ?? ""];
		words.push(...(to - at > 1 ? [`${first} … ${last}`] : to > at ? [first, last] : [first]));
		at = to + 1;
	}
	const rest = words.length - most;
	return rest > 1 ? `${words.slice(0, most).join(", ")} and ${rest} more` : words.join(", ");
}

function follows(one: string, next: string): boolean {
	const [a, b] = [TAIL.exec(one), TAIL.exec(next)];
	return Boolean(a && b && a[1] === b[1] && a[3] === b[3] && Number(b[2]) === Number(a[2]) + 1);
}
