// A scene as a model that is turned: surfaces and lines as they are left without the cut that is dragged, clipped by it, and for each
// of its places the faces it makes, which were worked out ahead.
import {
  Color, DirectionalLight, DoubleSide, HemisphereLight, LineBasicMaterial, MeshBasicMaterial, MeshLambertMaterial,
  OrthographicCamera, PerspectiveCamera, Plane, SRGBColorSpace, Scene, Vector3, WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

const STEP = Math.PI / 24;

function bytesOf(text) {
  const packed = atob(text), bytes = new Uint8Array(packed.length);
  for (let n = 0; n < packed.length; n += 1) bytes[n] = packed.charCodeAt(n);
  return bytes.buffer;
}

window.turnedModel = (figure) => {
  const canvas = figure.querySelector("canvas"), home = figure.querySelector(".frame-home");
  const range = figure.querySelector("input"), said = figure.querySelector("output");
  const told = JSON.parse(figure.dataset.model), words = JSON.parse(figure.dataset.words);
  let renderer = null, scene = null, camera = null, controls = null, faces = [], due = false;
  const plane = new Plane(new Vector3(...told.normal).negate(), 0);
  let wanted = told.home;

  function draw() {
    due = false;
    renderer.render(scene, camera);
    canvas.dataset.drawn = String(Number(canvas.dataset.drawn || 0) + 1);
  }
  function soon() {
    if (renderer && !due) { due = true; requestAnimationFrame(draw); }
  }
  function fit() {
    const wide = home.clientWidth || canvas.clientWidth, high = wide / told.aspect;
    renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
    renderer.setSize(wide, high, false);
    soon();
  }
  function eye() {
    const { camera: c } = told, reach = told.size * 4;
    if (c.field) {
      camera = new PerspectiveCamera(c.field, told.aspect, told.size / 400, reach + c.distance);
    } else {
      const up = c.height / 2, across = up * told.aspect;
      camera = new OrthographicCamera(-across, across, up, -up, -reach, reach + c.distance);
    }
    camera.position.set(...c.eye);
    camera.up.set(0, 1, 0);
    controls = new OrbitControls(camera, canvas);
    controls.target.set(...c.target);
    controls.enablePan = true;
    controls.addEventListener("change", soon);
    controls.update();
    controls.saveState();
  }
  function dress(root) {
    const clip = told.offsets.length ? [plane] : [];
    root.traverse((part) => {
      if (!part.material) return;
      const colour = part.material.color || new Color(0), opacity = part.material.opacity;
      const [kind, number] = part.name.split("_");
      const face = kind === "faces" || kind === "outlines";
      if (part.isLineSegments) {
        part.material = new LineBasicMaterial({ color: colour, clippingPlanes: face ? [] : clip, transparent: !face, opacity: face ? 1 : 0.75 });
      } else if (face) {
        part.material = new MeshBasicMaterial({ color: colour, side: DoubleSide, polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -1 });
      } else {
        part.material = new MeshLambertMaterial({
          color: colour, side: DoubleSide, flatShading: true, clippingPlanes: clip, transparent: opacity < 1, opacity,
          depthWrite: opacity >= 1, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1,
        });
      }
      if (face) {
        const place = Number(number);
        (faces[place] = faces[place] || []).push(part);
        part.visible = false;
      }
    });
  }
  function show(number) {
    wanted = Math.min(Math.max(number, 0), Math.max(words.length - 1, 0));
    if (range) {
      range.value = wanted;
      range.setAttribute("aria-valuetext", words[wanted]);
      said.textContent = words[wanted];
    }
    canvas.setAttribute("aria-label", `${home.alt}${words.length ? `; ${words[wanted]}` : ""}; arrows turn it, + and − go nearer and farther`);
    canvas.dataset.frame = wanted;
    if (!scene) return;
    if (told.offsets.length) plane.constant = told.offsets[wanted];
    faces.forEach((own, place) => own.forEach((part) => { part.visible = place === wanted || !told.offsets.length; }));
    soon();
  }
  function load() {
    if (renderer) return;
    try {
      renderer = new WebGLRenderer({ canvas, antialias: true });
    } catch {
      return; // the picture stays
    }
    renderer.localClippingEnabled = true;
    renderer.setClearColor(new Color().setRGB(...told.paper, SRGBColorSpace));
    new GLTFLoader().parse(bytesOf(JSON.parse(document.getElementById(figure.dataset.glb).textContent)), "", (found) => {
      scene = new Scene();
      eye();
      dress(found.scene);
      scene.add(found.scene);
      scene.add(new HemisphereLight(0xffffff, 0xb8b2a8, 2.2));
      const sun = new DirectionalLight(0xffffff, 1.3);
      sun.position.set(-0.42, 0.62, 0.66); // over the left shoulder, as in the pictures
      camera.add(sun);
      scene.add(camera);
      canvas.hidden = false;
      fit();
      home.hidden = true;
      show(wanted);
    });
  }
  canvas.tabIndex = 0;
  canvas.addEventListener("keydown", (event) => {
    const turn = { ArrowLeft: [STEP, 0], ArrowRight: [-STEP, 0], ArrowUp: [0, STEP], ArrowDown: [0, -STEP] }[event.key];
    if (!controls || (!turn && !["+", "=", "-"].includes(event.key))) return;
    event.preventDefault();
    const arm = camera.position.clone().sub(controls.target);
    if (turn) {
      arm.applyAxisAngle(new Vector3(0, 1, 0), turn[0]);
      const side = new Vector3(0, 1, 0).cross(arm).normalize(), tilted = arm.clone().applyAxisAngle(side, -turn[1]);
      const steep = tilted.angleTo(new Vector3(0, 1, 0));
      if (steep > 0.05 && steep < Math.PI - 0.05) arm.copy(tilted);
    } else if (camera.isPerspectiveCamera) {
      arm.multiplyScalar(event.key === "-" ? 1.15 : 1 / 1.15);
    } else {
      camera.zoom *= event.key === "-" ? 1 / 1.15 : 1.15;
      camera.updateProjectionMatrix();
    }
    camera.position.copy(controls.target).add(arm);
    controls.update();
    soon();
  });
  if (range) range.addEventListener("input", () => show(Number(range.value)));
  figure.querySelector(".back").addEventListener("click", () => {
    if (controls) controls.reset();
    show(told.home);
  });
  addEventListener("resize", () => { if (renderer && !canvas.hidden) { home.hidden = false; fit(); home.hidden = true; } });
  show(told.home);
  figure.load = load;
};
