/** What is shown until the database answers; it asks again by itself. */
export function startingPage(): string {
	return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="refresh" content="1">
<title>Open Choir is starting</title>
<style>
body { margin: 0; min-height: 100vh; display: grid; place-content: center; font: 18px/1.5 system-ui, sans-serif; background: #f7f3ea; color: #1f2a33; text-align: center }
@media (prefers-color-scheme: dark) { body { background: #12181d; color: #ece6d9 } }
</style>
</head>
<body><main><h1>Open Choir is starting</h1><p>The database is being opened. This page goes on by itself.</p></main></body>
</html>
`;
}
