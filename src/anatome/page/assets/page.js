"use strict";
// Each figure says in its data what is done in it. Frames lie in the page as JSON and are decoded when one comes near.
(() => {
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;

  function frames(figure) {
    const canvas = figure.querySelector("canvas"), pen = canvas.getContext("2d");
    const home = figure.querySelector(".frame-home"), over = figure.querySelector(".over");
    const range = figure.querySelector("input"), said = figure.querySelector("output");
    const play = figure.querySelector(".play"), stage = figure.querySelector(".stage");
    const words = JSON.parse(figure.dataset.words), own = Number(figure.dataset.home);
    const along = JSON.parse(figure.dataset.along), round = figure.dataset.round === "yes";
    const last = words.length - 1;
    let pictures = null, wanted = own, timer = 0;

    function load() {
      if (pictures) return;
      const packed = JSON.parse(document.getElementById(figure.dataset.frames).textContent);
      pictures = packed.map((data, number) => {
        if (number === own) return home;
        const picture = new Image();
        picture.onload = () => { if (wanted === number) draw(); };
        picture.src = "data:image/webp;base64," + data;
        return picture;
      });
    }
    function draw() {
      const picture = pictures && pictures[wanted];
      if (!picture || !picture.complete || !picture.naturalWidth) return;
      if (canvas.width !== home.naturalWidth) {
        canvas.width = home.naturalWidth;
        canvas.height = home.naturalHeight;
      }
      pen.clearRect(0, 0, canvas.width, canvas.height);
      pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
      canvas.hidden = false;
      home.hidden = true;
      canvas.dataset.frame = wanted;
      canvas.setAttribute("aria-label", `${home.alt}; ${words[wanted]}`);
    }
    function show(number) {
      load();
      wanted = round ? ((number % (last + 1)) + last + 1) % (last + 1) : Math.min(Math.max(number, 0), last);
      range.value = wanted;
      range.setAttribute("aria-valuetext", words[wanted]);
      said.textContent = words[wanted];
      if (over) over.style.visibility = wanted === own ? "" : "hidden";
      draw();
    }
    function stop() {
      clearInterval(timer);
      timer = 0;
      play.textContent = "Play";
      play.setAttribute("aria-pressed", "false");
    }
    range.addEventListener("input", () => { stop(); show(Number(range.value)); });
    play.addEventListener("click", () => {
      if (timer) return stop();
      play.textContent = "Stop";
      play.setAttribute("aria-pressed", "true");
      let step = 1, number = wanted;
      if (!round && number === last) step = -1;
      timer = setInterval(() => {
        number += step;
        show(number);
        if (round ? wanted === own : wanted === 0 || wanted === last) stop();
      }, calm ? 400 : 90);
    });
    let held = null;
    stage.addEventListener("pointerdown", (event) => {
      if (event.button || !event.isPrimary) return;
      stop();
      load();
      held = { x: event.clientX, y: event.clientY, from: wanted };
      stage.setPointerCapture(event.pointerId);
      stage.classList.add("held");
    });
    stage.addEventListener("pointermove", (event) => {
      if (!held) return;
      const box = stage.getBoundingClientRect();
      const x = (event.clientX - held.x) / box.width, y = (event.clientY - held.y) / box.height;
      const share = (x * along[0] + y * along[1]) / (along[0] * along[0] + along[1] * along[1]);
      show(held.from + Math.round(share * (round ? last + 1 : last)));
    });
    for (const kind of ["pointerup", "pointercancel"]) {
      stage.addEventListener(kind, () => { held = null; stage.classList.remove("held"); });
    }
    stage.classList.add("dragged");
    if (Math.abs(along[1]) > Math.abs(along[0])) stage.classList.add("upright");
    figure.load = load;
    range.value = own;
    range.setAttribute("aria-valuetext", words[own]);
    said.textContent = words[own];
  }

  function looks(figure) {
    const stage = figure.querySelector(".stage"), other = figure.querySelector(".other");
    const range = figure.querySelector("input"), said = figure.querySelector("output");
    const line = document.createElement("div");
    line.className = "divide";
    stage.append(line);
    const names = JSON.parse(figure.dataset.words);
    function show(share) {
      other.style.clipPath = `inset(0 0 0 ${100 * share}%)`;
      line.style.left = `${100 * share}%`;
      range.value = Math.round(100 * share);
      const left = Math.round(100 * share), told = `${names[0]} ${left} %, ${names[1]} ${100 - left} %`;
      range.setAttribute("aria-valuetext", told);
      said.textContent = told;
    }
    const move = (event) => {
      const box = stage.getBoundingClientRect();
      show(Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1));
    };
    let held = false;
    stage.addEventListener("pointerdown", (event) => {
      if (event.button || !event.isPrimary) return;
      held = true;
      stage.setPointerCapture(event.pointerId);
      move(event);
    });
    stage.addEventListener("pointermove", (event) => { if (held) move(event); });
    for (const kind of ["pointerup", "pointercancel"]) stage.addEventListener(kind, () => { held = false; });
    range.addEventListener("input", () => show(Number(range.value) / 100));
    stage.classList.add("dragged");
    other.hidden = false;
    show(0.5);
  }

  function notes(figure) {
    const button = figure.querySelector(".notes"), over = figure.querySelector(".over");
    if (!button) return;
    button.addEventListener("click", () => {
      over.hidden = !over.hidden;
      button.setAttribute("aria-pressed", String(!over.hidden));
    });
  }

  // Looking into a picture: wheel, pinch, drag, + and −.
  const dialog = document.querySelector("dialog");
  function enlarge(figure) {
    const button = figure.querySelector(".enlarge");
    if (!button) return;
    button.addEventListener("click", () => {
      const picture = dialog.querySelector("img"), packed = document.getElementById(figure.dataset.larger);
      picture.src = "data:image/webp;base64," + JSON.parse(packed.textContent);
      picture.alt = figure.querySelector(".frame-home").alt;
      dialog.showModal();
      picture.decode().then(fit, fit);
    });
  }
  const at = { x: 0, y: 0, scale: 1 };
  function place() {
    dialog.querySelector("img").style.transform = `translate(${at.x}px, ${at.y}px) scale(${at.scale})`;
  }
  function fit() {
    const picture = dialog.querySelector("img"), box = dialog.getBoundingClientRect();
    at.scale = Math.min(box.width / picture.naturalWidth, box.height / picture.naturalHeight);
    at.x = (box.width - at.scale * picture.naturalWidth) / 2;
    at.y = (box.height - at.scale * picture.naturalHeight) / 2;
    place();
  }
  function zoom(by, x, y) {
    const scale = Math.min(Math.max(at.scale * by, 0.1), 6);
    at.x = x - ((x - at.x) * scale) / at.scale;
    at.y = y - ((y - at.y) * scale) / at.scale;
    at.scale = scale;
    place();
  }
  function dialogs() {
    if (!dialog) return;
    const look = dialog.querySelector(".look"), middle = () => [innerWidth / 2, innerHeight / 2];
    dialog.querySelector(".nearer").addEventListener("click", () => zoom(1.4, ...middle()));
    dialog.querySelector(".farther").addEventListener("click", () => zoom(1 / 1.4, ...middle()));
    dialog.querySelector(".close").addEventListener("click", () => dialog.close());
    look.addEventListener("wheel", (event) => {
      event.preventDefault();
      zoom(event.deltaY < 0 ? 1.15 : 1 / 1.15, event.clientX, event.clientY);
    }, { passive: false });
    dialog.addEventListener("keydown", (event) => {
      const step = { ArrowLeft: [60, 0], ArrowRight: [-60, 0], ArrowUp: [0, 60], ArrowDown: [0, -60] }[event.key];
      if (step) { at.x += step[0]; at.y += step[1]; place(); event.preventDefault(); }
      if (event.key === "+" || event.key === "=") zoom(1.4, ...middle());
      if (event.key === "-") zoom(1 / 1.4, ...middle());
    });
    const fingers = new Map();
    const spread = () => {
      const [a, b] = [...fingers.values()];
      return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, apart: Math.hypot(a.x - b.x, a.y - b.y) };
    };
    look.addEventListener("pointerdown", (event) => {
      fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      look.setPointerCapture(event.pointerId);
    });
    look.addEventListener("pointermove", (event) => {
      const finger = fingers.get(event.pointerId);
      if (!finger) return;
      const before = fingers.size === 2 ? spread() : null;
      const moved = { x: event.clientX - finger.x, y: event.clientY - finger.y };
      fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      if (before) {
        const now = spread();
        zoom(now.apart / Math.max(before.apart, 1), now.x, now.y);
        at.x += now.x - before.x;
        at.y += now.y - before.y;
      } else {
        at.x += moved.x;
        at.y += moved.y;
      }
      place();
    });
    for (const kind of ["pointerup", "pointercancel"]) look.addEventListener(kind, (event) => fingers.delete(event.pointerId));
    addEventListener("resize", () => { if (dialog.open) fit(); });
  }

  const near = new IntersectionObserver((seen) => {
    for (const one of seen) if (one.isIntersecting) { one.target.load(); near.unobserve(one.target); }
  }, { rootMargin: "100%" });
  for (const bar of document.querySelectorAll(".bar")) bar.hidden = false;
  for (const figure of document.querySelectorAll("figure")) {
    if (figure.dataset.shows === "frames") { frames(figure); near.observe(figure); }
    if (figure.dataset.shows === "looks") looks(figure);
    if (figure.dataset.shows === "model") { window.turnedModel(figure); near.observe(figure); }
    notes(figure);
    enlarge(figure);
  }
  dialogs();
  document.documentElement.dataset.ready = "yes";
})();
