"""Renders the demo's stills with a spectral path tracer, then develops them as each camera would.

Run in the tools environment: `python -m tools.tender.render OUT [--spp N] [--only NAME]`.
"""

from __future__ import annotations

import argparse
import time
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import mitsuba as mi
import numpy as np
import numpy.typing as npt
from PIL import Image
from tools.tender.cameras import CLIP_BAR_PX, CLIP_STILL, SHOTS, Shot, clip_shots, rolled_up
from tools.tender.model import Part, tender
from tools.tender.surfaces import SURFACES, WAVELENGTHS_NM

mi.set_variant("llvm_ad_spectral")

FONT = Path(__file__).parents[2] / "src/chalkreel/fonts/OpenSans-Bold.ttf"
WORN = {"hull", "deck", "skirt", "band_series", "band_special", "steel"}
SHINY = {"glass": 0.05, "steel": 0.25}
Array = npt.NDArray[np.float64]


def spectrum(values: Array) -> dict[str, Any]:
    """Mitsuba's form of a tabulated spectrum."""
    return {
        "type": "irregular",
        "wavelengths": ",".join(map(str, WAVELENGTHS_NM)),
        "values": ",".join(f"{v:.5f}" for v in values),
    }


def noise(size: int, slope: float, seed: int, stretch: float = 1.0) -> Array:
    """Tileable fractal noise with unit spread, shape (size, size)."""
    rng = np.random.default_rng(seed)
    fy, fx = np.meshgrid(np.fft.fftfreq(size), np.fft.fftfreq(size) * stretch, indexing="ij")
    radius = np.hypot(fx, fy)
    radius[0, 0] = 1.0
    field = np.fft.ifft2(np.fft.fft2(rng.standard_normal((size, size))) * radius**-slope).real
    return np.asarray((field - field.mean()) / field.std())


def wear_texture(where: Path) -> Path:
    """Share of grime over paint: fine chips in patches, faint vertical streaks."""
    patches = np.clip(noise(1024, 1.7, 1) - 0.6, 0, 1)
    chips = ((noise(1024, 0.75, 2) > 2.15) & (patches > 0)).astype(float)
    streaks = np.clip(noise(1024, 1.2, 3, stretch=9.0) - 1.1, 0, 1) * 0.28
    weight = np.clip(chips * 0.85 + streaks + 0.02, 0, 1)
    Image.fromarray((weight * 255).astype(np.uint8)).save(where)
    return where


def mesh(part: Part, where: Path) -> Path:
    """Writes a part as PLY, one face one normal, texture coordinates from the nearest axis plane."""
    raw = part.solid.to_mesh()
    corners = np.asarray(raw.vert_properties)[:, :3][np.asarray(raw.tri_verts)]
    normal = np.abs(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    axis = np.repeat(normal.argmax(axis=1), 3)
    flat = corners.reshape(-1, 3).astype(np.float32)
    pick = np.array([[1, 2], [0, 2], [0, 1]])[axis]
    uv = np.take_along_axis(flat, pick, axis=1) / 310.0
    out = mi.Mesh("part", len(flat), len(flat) // 3, has_vertex_texcoords=True)
    params = mi.traverse(out)
    params["vertex_positions"] = flat.ravel()
    params["vertex_texcoords"] = uv.astype(np.float32).ravel()
    params["faces"] = np.arange(len(flat), dtype=np.uint32)
    params.update()
    out.write_ply(str(where))
    return where


def material(surface: str, wear: Path) -> dict[str, Any]:
    """Matt paint with wear; glass and bare metal shine a little."""
    paint: dict[str, Any] = {"type": "diffuse", "reflectance": spectrum(SURFACES[surface])}
    if surface in SHINY:
        paint = {"type": "roughplastic", "alpha": SHINY[surface], "diffuse_reflectance": spectrum(SURFACES[surface])}
    if surface in WORN:
        grime = {"type": "diffuse", "reflectance": spectrum(SURFACES["grime"])}
        weight = {"type": "bitmap", "filename": str(wear), "raw": True}
        paint = {"type": "blendbsdf", "weight": weight, "paint": paint, "grime": grime}
    return {"type": "twosided", "bsdf": paint}


def lamp(kind: str, at: tuple[float, float, float], size: float, power: float) -> dict[str, Any]:
    """A soft box that looks at the model."""
    temperature = {"daylight": 5600.0, "tungsten": 2900.0}[kind]
    xs = np.arange(360.0, 790.0, 10.0)
    planck = 1.0 / (xs**5 * (np.exp(1.4388e7 / (xs * temperature)) - 1.0))
    planck *= power / planck[(xs > 400) & (xs < 700)].mean()
    radiance = {"type": "irregular", "wavelengths": ",".join(map(str, xs)), "values": ",".join(map(str, planck))}
    to_world = mi.ScalarTransform4f().look_at(list(at), [0, 0, 60], [0.1, 0.2, 1]).scale(size / 2)
    return {"type": "rectangle", "to_world": to_world, "emitter": {"type": "area", "radiance": radiance}}


def surroundings(shot: Shot) -> dict[str, Any]:
    """Bench, wall, lamps and, where the photographer had one, a neutral card."""
    t = mi.ScalarTransform4f()
    overhead = shot.origin[2] > 1500
    front = (-300.0, -1600.0, 1500.0) if overhead else (shot.origin[0] * 1.4, shot.origin[1] * 1.3, 1500.0)
    scene: dict[str, Any] = {
        "bench": {"type": "rectangle", "to_world": t.scale([2600, 2600, 1]), "bsdf": plain("bench")},
        "key": lamp(shot.light, (900, 1300, 1900) if shot.origin[1] >= 0 else (700, -1300, 1900), 900, 20.0),
        "fill": lamp(shot.light, (-1700, -200, 1500), 1400, 4.0),
        "front": lamp(shot.light, front, 800, 5.0),
    }
    wall = t.translate([0, -1500 if shot.origin[1] >= 0 else 1500, 600])
    turn = wall.rotate([1, 0, 0], -90 if shot.origin[1] >= 0 else 90)
    scene["wall"] = {"type": "rectangle", "to_world": turn.scale([4000, 1600, 1]), "bsdf": plain("wall")}
    if shot.card:
        scene["card"] = {"type": "rectangle", "to_world": card_place(shot), "bsdf": plain("card")}
    return scene


def plain(surface: str) -> dict[str, Any]:
    """Matt, two-sided, unworn."""
    return {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": spectrum(SURFACES[surface])}}


def card_place(shot: Shot) -> mi.ScalarTransform4f:
    """The card leans towards the camera beside the model, or lies on the bench in the top view."""
    t = mi.ScalarTransform4f()
    if shot.name.startswith("still-3"):
        return t.translate([300, 245, 2]).scale([45, 30, 1])
    if shot.name.startswith("still-2"):
        return t.translate([150, 330, 40]).rotate([0, 0, 1], -38).rotate([1, 0, 0], -68).scale([55, 40, 1])
    return t.translate([150, 700, 30]).rotate([1, 0, 0], -78).scale([42, 28, 1])


def render(shot: Shot, work: Path, spp: int, parts: list[Part] | None = None) -> Array:
    """Linear sRGB picture (H, W, 3) of the tender or of other parts, averaged over passes: memory stays small."""
    wear = wear_texture(work / "wear.png")
    scene: dict[str, Any] = {"type": "scene", "integrator": {"type": "path", "max_depth": 6}, **surroundings(shot)}
    for number, part in enumerate(parts or tender(shot.version, FONT, shot.bare)):
        name = f"{shot.version}{number}.ply"
        scene[f"part{number}"] = {
            "type": "ply",
            "filename": str(mesh(part, work / name)),
            "face_normals": True,
            "bsdf": plain("plastic") if shot.bare else material(part.surface, wear),
        }
    margin = 1.0 if shot.bend == 0.0 else widest(shot)
    width, height, left, top = shot.whole
    shown_width = round(width * shot.pixel_aspect * margin)
    distance = float(np.linalg.norm(np.subtract(shot.target, shot.origin)))
    scene["sensor"] = {
        "type": "thinlens",
        "fov": float(np.degrees(2 * np.arctan(shown_width / 2 / shot.focal_px))),
        "fov_axis": "x",
        "aperture_radius": 2.2,
        "focus_distance": distance - 60.0,
        "to_world": mi.ScalarTransform4f().look_at(list(shot.origin), list(shot.target), rolled_up(shot).tolist()),
        "film": {
            "type": "hdrfilm",
            "width": shown_width,
            "height": round(height * margin),
            "crop_width": round(shot.width_px * shot.pixel_aspect * margin),
            "crop_height": round(shot.height_px * margin),
            "crop_offset_x": round(left * shot.pixel_aspect),
            "crop_offset_y": top,
            "rfilter": {"type": "gaussian"},
            "component_format": "float32",
        },
        "sampler": {"type": "independent"},
    }
    loaded = mi.load_dict(scene)
    passes = max(1, spp // 8)
    total = sum(np.array(mi.render(loaded, spp=8, seed=i), dtype=np.float64)[..., :3] for i in range(passes))
    return bent(np.asarray(total / passes), shot) if shot.bend else np.asarray(total / passes)


def widest(shot: Shot) -> float:
    """How much wider than the picture one must render so that bending it leaves no gap."""
    corner = float(np.hypot(shot.width_px * shot.pixel_aspect, shot.height_px)) / 2 / shot.focal_px
    radius = corner
    for _ in range(30):
        radius = corner / (1.0 + shot.bend * radius**2)
    return radius / corner * 1.01


def bent(picture: Array, shot: Shot) -> Array:
    """Bend a straight picture as the lens would have."""
    width, height = shot.width_px, shot.height_px
    x, y = np.meshgrid(np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2)
    seen = np.stack([x, y]) / shot.focal_px
    ideal = seen.copy()
    for _ in range(30):
        ideal = seen / (1.0 + shot.bend * np.sum(ideal**2, axis=0))
    at = ideal * shot.focal_px + np.array([picture.shape[1], picture.shape[0]])[:, None, None] / 2 - 0.5
    return np.asarray(cv2.remap(picture, at[0].astype(np.float32), at[1].astype(np.float32), cv2.INTER_CUBIC))


def develop(linear: Array, shot: Shot) -> Image.Image:
    """White balance, exposure, grade and fading, grain, 8-bit sRGB."""
    grey = linear.reshape(-1, 3).mean(axis=0)
    gains = (grey[1] / grey) ** shot.white_balance
    picture = linear * gains
    picture *= 0.62 * shot.exposure / np.percentile(picture[..., 1], 96)
    if shot.finish == "graded":
        picture = picture * np.array([0.66, 0.74, 0.92]) * 0.8
    if shot.finish == "faded":
        picture = 0.055 * np.array([1.25, 1.0, 0.85]) + picture * np.array([0.86, 0.76, 0.66])
    rng = np.random.default_rng(len(shot.name))
    grain = 0.006 if shot.finish == "photo" else 0.014
    picture = np.clip(picture, 0, 1) + rng.standard_normal(picture.shape) * grain * np.sqrt(np.clip(picture, 0.02, 1))
    picture = np.clip(picture, 0, 1)
    encoded = np.where(picture <= 0.0031308, 12.92 * picture, 1.055 * picture ** (1 / 2.4) - 0.055)
    image = Image.fromarray((encoded * 255 + 0.5).astype(np.uint8))
    if shot.pixel_aspect != 1.0:
        image = image.resize((shot.width_px, shot.height_px), Image.Resampling.LANCZOS)
    return image


def write_clip(out: Path, work: Path, spp: int) -> None:
    """The clip at 25 frames a second, with black bars above and below."""
    with av.open(str(out / "clip-bow-pass.mp4"), "w") as container:
        stream = container.add_stream("libx264", rate=25, options={"crf": "20"})
        first = clip_shots()[0]
        stream.width, stream.height = first.width_px, first.height_px + 2 * CLIP_BAR_PX
        stream.pix_fmt = "yuv420p"
        stream.codec_context.sample_aspect_ratio = Fraction(first.pixel_aspect).limit_denominator(100)
        for shot in clip_shots():
            picture = np.asarray(develop(render(shot, work, spp), shot))
            if shot.name == clip_shots()[CLIP_STILL].name:
                Image.fromarray(picture).save(out / "still-9-clip-frame.jpg", quality=92)
            barred = np.pad(picture, ((CLIP_BAR_PX, CLIP_BAR_PX), (0, 0), (0, 0)))
            container.mux(stream.encode(av.VideoFrame.from_ndarray(barred, format="rgb24")))
        container.mux(stream.encode())


def main() -> None:
    """Render the shots named on the command line, or all."""
    parser = argparse.ArgumentParser()
    parser.add_argument("out", type=Path)
    parser.add_argument("--spp", type=int, default=192)
    parser.add_argument("--only", default="")
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    work = args.out / "work"
    work.mkdir(exist_ok=True)
    if args.only in "clip-bow-pass":
        write_clip(args.out, work, max(8, args.spp // 4))
    for shot in SHOTS:
        if args.only in shot.name:
            started = time.perf_counter()
            develop(render(shot, work, args.spp), shot).save(args.out / f"{shot.name}.jpg", quality=90)
            print(f"{shot.name}: {time.perf_counter() - started:.0f} s")


if __name__ == "__main__":
    main()
