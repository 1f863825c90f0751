// Opens each page in a real browser and prints what axe-core finds there, as JSON: [{url, found: [{rule, impact, …}]}].
// usage: node audit.mjs BROWSER URL…
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { chromium } from "playwright-core";

const [browserPath, ...urls] = process.argv.slice(2);
const source = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");
const browser = await chromium.launch({ executablePath: browserPath, args: ["--no-sandbox"] });
const told = [];
for (const url of urls) {
  const page = await browser.newPage();
  const answer = await page.goto(url);
  await page.evaluate(source);
  const { violations } = await page.evaluate(() => axe.run());
  const found = violations.map(({ id, impact, help, nodes }) => ({
    rule: id,
    impact,
    help,
    where: nodes.map((node) => node.html.slice(0, 160)),
  }));
  told.push({ url, status: answer.status(), found });
  await page.close();
}
await browser.close();
console.log(JSON.stringify(told));
