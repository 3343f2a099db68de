// The work list without a network: the page and its parts are kept when they come, and given when the network does not answer.
const KEPT = "work-1";
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
				if (answer.ok) (await caches.open(KEPT)).put(page ? "/work" : request, answer.clone());
				return answer;
			})
			.catch(async (error) => {
				const kept = await caches.match(page ? "/work" : request);
				if (kept) return kept;
				throw error;
			}),
	);
});
