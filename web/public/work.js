// The work list without a network: the page and its parts are kept when they come, and given when the network does not answer.
const KEPT = "work-1";
const MOST = 150;
async function keep(request, answer) {
	const cache = await caches.open(KEPT);
	await cache.put(request, answer);
	const keys = await cache.keys();
	for (const old of keys.slice(0, Math.max(0, keys.length - MOST))) await cache.delete(old);
}
self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
	const { request } = event;
	const { pathname, origin } = new URL(request.url);
	if (request.method !== "GET" || origin !== location.origin || pathname.startsWith("/api/")) {
		if (pathname !== "/api/v1/session" || request.method !== "GET") return;
	}
	const page = request.mode === "navigate";
	if (page && !/^\/f\/[^/]+\/work$/.test(pathname)) return;
	event.respondWith(
		fetch(request)
			.then(async (answer) => {
				if (answer.ok) await keep(page ? "/work" : request, answer.clone());
				return answer;
			})
			.catch(async (error) => {
				const kept = await caches.match(page ? "/work" : request);
				if (kept) return kept;
				throw error;
			}),
	);
});
