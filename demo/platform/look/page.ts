/** What stands around every page of the practice platform. */
import { html } from 'hono/html'

export const page = (title: string, body: unknown) => html`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${title}</title>
<style>
body { font: 1rem/1.5 system-ui, sans-serif; margin: 0; color: #1d2320; background: #f6f5f0 }
header, main { padding: 1rem 1.5rem; max-width: 70rem }
h1 { font-size: 1.4rem; margin: 0 }
table { border-collapse: collapse; width: 100% }
th, td { text-align: start; padding: .4rem .8rem .4rem 0; border-bottom: 1px solid #cfd3cc; vertical-align: top }
a, button { color: #17594a }
button { font: inherit; padding: .3rem .8rem; border: 1px solid #17594a; border-radius: .3rem; background: #fff; cursor: pointer }
iframe { width: 100%; height: 44rem; border: 1px solid #cfd3cc; background: #fff }
pre { white-space: pre-wrap; font-size: .85rem }
.bad { color: #9c2b1b }
</style>
</head>
<body><header><h1>${title}</h1><p>A practice platform: it shows what a learning platform is told, and forgets it when it ends.</p></header>
<main>${body}</main></body></html>`
