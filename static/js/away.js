// No line: what this device has kept can be opened all the same.

const list = document.querySelector("#kept-pages ul");
const named = new Set(); // a page is kept by its address, and may have several: the last one opened is listed
const pages = await (await caches.open("pages")).keys();
for (const { url } of pages.reverse()) {
  const kept = await (await caches.open("pages")).match(url);
  const title = new DOMParser().parseFromString(await kept.text(), "text/html").title.trim().replace(/ · Iron Compass$/, "") || new URL(url).pathname;
  if (named.has(title)) continue;
  named.add(title);
  const item = document.createElement("li");
  const link = document.createElement("a");
  link.href = url;
  link.className = "link";
  link.textContent = title;
  item.append(link);
  list.append(item);
}
document.getElementById("kept-pages").hidden = !pages.length;
