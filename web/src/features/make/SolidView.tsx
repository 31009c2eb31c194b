/** A relief as a solid that can be turned. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import * as three from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { api, ask, pictureUrl, type SolidPart, type Ticket } from "@/api/client";
import { previewShaOf } from "./rehearsal";

export default function SolidView({ ticket }: { ticket: Ticket }) {
  const frame = useRef<HTMLDivElement>(null);
  const [flat, setFlat] = useState(false);
  const solid = useQuery({
    queryKey: ["solid", ticket.id],
    queryFn: () =>
      ask(api.GET("/api/tickets/{ticket_id}/solid", { params: { path: { ticket_id: ticket.id } } })),
    staleTime: Infinity,
  });
  const parts = solid.data?.parts;
  useEffect(() => {
    if (!frame.current || !parts) return;
    try {
      return show(frame.current, parts);
    } catch {
      // No WebGL here: the plain picture serves as well.
      setFlat(true);
      return undefined;
    }
  }, [parts]);
  return (
    <div className="relative h-full">
      <div
        ref={frame}
        role="img"
        aria-label="The relief as a solid; drag to turn it"
        className="h-full cursor-grab"
      />
      {flat && (
        <img
          src={pictureUrl(previewShaOf(ticket))}
          alt="The relief from above"
          className="absolute inset-0 m-auto max-h-[70%] max-w-[70%]"
        />
      )}
      {solid.error && (
        <p role="alert" className="absolute top-4 left-5 text-red-pencil">
          {solid.error.message}
        </p>
      )}
      <p className="absolute bottom-3 left-5 text-pencil">Drag to turn, wheel to come closer.</p>
    </div>
  );
}

function show(frame: HTMLElement, parts: SolidPart[]): () => void {
  const renderer = new three.WebGLRenderer({ antialias: true, alpha: true });
  renderer.setPixelRatio(window.devicePixelRatio);
  frame.appendChild(renderer.domElement);
  const scene = new three.Scene();
  const camera = new three.PerspectiveCamera(32, 1, 1, 5000);
  const group = new three.Group();
  for (const part of parts) group.add(meshOf(part), edgesOf(part));
  scene.add(group, new three.HemisphereLight(0xffffff, 0xcfc8b8, 2.2));
  const sun = new three.DirectionalLight(0xffffff, 2.4);
  sun.position.set(-120, 160, 260);
  scene.add(sun);
  const box = new three.Box3().setFromObject(group);
  const middle = box.getCenter(new three.Vector3());
  const size = box.getSize(new three.Vector3()).length();
  camera.up.set(0, 0, 1);
  camera.position.set(middle.x - size * 0.25, middle.y - size * 1.25, middle.z + size * 1.15);
  const controls = new OrbitControls(camera, renderer.domElement);
  controls.target.copy(middle);
  const draw = () => renderer.render(scene, camera);
  const resize = () => {
    renderer.setSize(frame.clientWidth, frame.clientHeight);
    camera.aspect = frame.clientWidth / Math.max(1, frame.clientHeight);
    camera.updateProjectionMatrix();
    draw();
  };
  const observer = new ResizeObserver(resize);
  observer.observe(frame);
  controls.addEventListener("change", draw);
  controls.update();
  resize();
  return () => {
    observer.disconnect();
    controls.dispose();
    renderer.dispose();
    renderer.domElement.remove();
  };
}

function meshOf(part: SolidPart): three.Mesh {
  return new three.Mesh(
    geometryOf(part),
    new three.MeshStandardMaterial({ color: part.colour, flatShading: true, roughness: 0.9 }),
  );
}

function edgesOf(part: SolidPart): three.LineSegments {
  const edges = new three.EdgesGeometry(geometryOf(part), 40);
  return new three.LineSegments(
    edges,
    new three.LineBasicMaterial({ color: 0x24272b, transparent: true, opacity: 0.55 }),
  );
}

function geometryOf(part: SolidPart): three.BufferGeometry {
  const geometry = new three.BufferGeometry();
  geometry.setAttribute("position", new three.BufferAttribute(new Float32Array(decode(part.positions)), 3));
  geometry.setIndex(new three.BufferAttribute(new Uint32Array(decode(part.triangles)), 1));
  geometry.computeVertexNormals();
  return geometry;
}

function decode(base64: string): ArrayBuffer {
  return Uint8Array.from(atob(base64), (character) => character.charCodeAt(0)).buffer;
}
