// Draws the icons of the installed app from the mark: the mark on paper, with room around it for any mask.
import { chromium } from "../web/node_modules/playwright/index.mjs";
import { readFileSync } from "node:fs";
import { args, executablePath } from "../web/tests/browser.mjs";

const mark = readFileSync(
  new URL("../web/public/mark.svg", import.meta.url),
  "utf8",
);
const browser = await chromium.launch({ executablePath, args });
for (const size of [192, 512]) {
  const page = await browser.newPage({
    viewport: { width: size, height: size },
  });
  await page.setContent(
    `<style>*{margin:0}body{width:${size}px;height:${size}px;display:grid;place-items:center;background:#f4f4f0}svg{width:${size * 0.58}px;height:auto}</style>${mark}`,
  );
  await page.screenshot({
    path: new URL(`../web/public/icon-${size}.png`, import.meta.url).pathname,
  });
  await page.close();
}
await browser.close();
