"use strict";
(() => {
  const tip = document.getElementById("tip");
  const marks = [...document.querySelectorAll(".mark")];
  const show = mark => {
    tip.textContent = mark.dataset.text;
    tip.hidden = false;
    const box = mark.getBoundingClientRect();
    const x = box.left + Math.min(box.width, 400) / 2 + scrollX;
    tip.style.left = Math.max(8, Math.min(x - tip.offsetWidth / 2, document.documentElement.clientWidth - tip.offsetWidth - 8)) + "px";
    tip.style.top = box.top + scrollY - tip.offsetHeight - 8 + "px";
  };
  const hide = () => { tip.hidden = true; };
  let lit = null;
  const light = label => {
    lit = lit === label ? null : label;
    for (const mark of marks) mark.classList.toggle("lit", lit !== null && mark.dataset.label === lit);
    for (const text of document.querySelectorAll("figure.chart svg text"))
      text.classList.toggle("lit", lit !== null && text.textContent.trim() === lit);
  };
  // One choice for each switch: "2-1" is the second region with the first channel, "-" all of both.
  const views = [...document.querySelectorAll(".view")];
  const picked = what => [...document.querySelectorAll(`[data-switch=${what}] select`)];
  const shown = what => views.find(view => view.dataset.view === picked(what).map(one => one.value).join("-"));
  const turn = () => {
    hide();
    const two = picked("beside")[0].value !== "none";
    const wanted = [shown("slice"), ...(two ? [shown("beside")] : [])];
    const found = wanted.filter(Boolean);
    document.getElementById("missing").hidden = found.length === wanted.length;
    for (const view of views) view.hidden = !found.includes(view);
    // In the order in which they are read, too.
    const box = document.querySelector(".views");
    box.append(...found);
    box.classList.toggle("two", found.length === 2 && found[0] !== found[1]);
  };
  for (const select of document.querySelectorAll("[data-switch] select")) select.addEventListener("change", turn);
  // A link to a finding of another slice turns the page to it.
  const reach = () => {
    const target = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
    const view = target && target.closest(".view");
    if (!view || !view.hidden) return;
    view.dataset.view.split("-").forEach((value, place) => { picked("slice")[place].value = value; });
    turn();
    target.scrollIntoView();
  };
  addEventListener("hashchange", reach);
  reach();
  for (const list of document.querySelectorAll(".every")) {
    const rows = [...list.querySelectorAll("tbody tr")];
    list.querySelector("input").addEventListener("input", event => {
      const words = event.target.value.toLowerCase().split(/\s+/).filter(Boolean);
      for (const row of rows) row.hidden = !words.every(word => row.textContent.toLowerCase().includes(word));
    });
  }
  addEventListener("afterprint", () => {
    document.body.classList.remove("alone");
    for (const section of document.querySelectorAll(".printed")) section.classList.remove("printed");
  });
  const labels = new Set(marks.map(mark => mark.dataset.label));
  for (const mark of marks) {
    mark.addEventListener("pointerenter", () => show(mark));
    mark.addEventListener("pointerleave", hide);
    mark.addEventListener("focus", () => show(mark));
    mark.addEventListener("blur", hide);
    mark.addEventListener("click", () => light(mark.dataset.label));
  }
  for (const text of document.querySelectorAll("figure.chart svg text"))
    if (labels.has(text.textContent.trim())) {
      text.classList.add("entry");
      text.addEventListener("click", () => light(text.textContent.trim()));
    }
  for (const svg of document.querySelectorAll("figure.chart svg")) {
    const own = [...svg.querySelectorAll(".mark")];
    if (!own.length) continue;
    svg.setAttribute("tabindex", "0");
    let at = -1;
    svg.addEventListener("keydown", event => {
      const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
      if (event.key === "Enter" && at >= 0) light(own[at].dataset.label);
      if (event.key === "Escape") { svg.focus(); hide(); }
      if (!step) return;
      event.preventDefault();
      at = (at + step + own.length) % own.length;
      own[at].focus();
    });
  }
  const give = (name, data, type) => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(data instanceof Blob ? data : new Blob([data], { type }));
    link.download = name;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  };
  const drawing = svg => {
    const copy = svg.cloneNode(true);
    copy.querySelectorAll(".marks").forEach(one => one.remove());
    const style = getComputedStyle(document.documentElement);
    let text = new XMLSerializer().serializeToString(copy);
    // In tags only: what a label says is text, whatever it looks like.
    text = text.replace(/<[^>]*>/g, tag =>
      tag.replace(/var\((--[a-z0-9]+)\)/g, (_, name) => style.getPropertyValue(name).trim()));
    const faces = [...document.querySelector("style").textContent.matchAll(/@font-face\{[^}]*\}/g)].map(one => one[0]);
    return text.replace(/>/, "><style>" + faces.join("") + "</style>");
  };
  const quoted = text => {
    const safe = /^\s*[=+\-@\t\r\uff1d\uff0b\uff0d\uff20]/.test(text) && !/^[-+]?[0-9][0-9.,]*%?$/.test(text) ? "'" + text : text;
    return /[",\n]/.test(safe) ? '"' + safe.replace(/"/g, '""') + '"' : safe;
  };
  for (const section of document.querySelectorAll("section[id]")) {
    const svg = section.querySelector("figure.chart svg"), table = section.querySelector("table"), bar = section.querySelector(".take");
    if (!svg || !bar) continue;
    const size = svg.viewBox.baseVal;
    const actions = {
      svg: () => give(section.id + ".svg", drawing(svg), "image/svg+xml"),
      png: () => {
        const picture = new Image();
        picture.onload = () => {
          const canvas = document.createElement("canvas");
          canvas.width = size.width * 2;
          canvas.height = size.height * 2;
          canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
          canvas.toBlob(blob => give(section.id + ".png", blob));
        };
        const source = drawing(svg).replace("<svg", `<svg width="${size.width * 2}" height="${size.height * 2}"`);
        picture.src = URL.createObjectURL(new Blob([source], { type: "image/svg+xml" }));
      },
      csv: () => give(section.id + ".csv", [...table.rows].map(row => [...row.cells].map(cell => quoted(cell.dataset.value ?? cell.textContent)).join(",")).join("\n") + "\n", "text/csv"),
    };
    const press = (text, label, action) => {
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = text;
      button.setAttribute("aria-label", label);
      button.addEventListener("click", action);
      bar.append(button);
    };
    for (const name of ["png", "svg", ...(table ? ["csv"] : [])])
      press(name.toUpperCase(), bar.dataset.take.replace("{format}", name.toUpperCase()), actions[name]);
    press(bar.dataset.short, bar.dataset.print, () => {
      document.body.classList.add("alone");
      section.classList.add("printed");
      print();
    });
  }
  for (const table of document.querySelectorAll("section table, .every table")) {
    const body = table.tBodies[0];
    [...table.tHead.rows[0].cells].forEach((cell, column) => {
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = cell.textContent;
      cell.replaceChildren(button);
      let way = -1;
      button.addEventListener("click", () => {
        way = -way;
        const key = row => row.cells[column].dataset.value ?? row.cells[column].textContent;
        const rows = [...body.rows].sort((a, b) => {
          const x = key(a), y = key(b), numeric = x !== "" && y !== "" && !isNaN(x) && !isNaN(y);
          return way * (numeric ? x - y : x.localeCompare(y));
        });
        body.replaceChildren(...rows);
        for (const other of table.tHead.rows[0].cells) other.removeAttribute("aria-sort");
        cell.setAttribute("aria-sort", way > 0 ? "ascending" : "descending");
      });
    });
  }
})();
