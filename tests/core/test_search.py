"""Finding nodes by what an artist types: trade words, symptoms, and slips of the finger."""

import random
import unittest

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.catalogue.search import search

WORDS = """
ripple, wave, foam, shore, caustics, refraction, refract, reflection, reflect, depth, murky, flowmap, current,
rain, puddle, wet, wetness, splash, swell, ocean, water, panning, scrolling, hair, strand, anisotropy,
anisotropic, root, fuzz, fur, highlight, car paint, flakes, metallic, clear coat, clearcoat, fresnel, rim,
iridescence, pearlescent, two tone, sheen, velvet, gloss, specular, roughness, ior, wind, sway, bend, gust,
flutter, foliage, leaf, leaves, grass, tree, two-sided, backface, translucency, subsurface, thickness, decal,
projection, triplanar, stamp, blend, fade, mask, box mask, sphere mask, spot, noise, perlin, voronoi, worley,
cellular, fbm, turbulence, hash, random, seed, clouds, add, plus, subtract, minus, multiply, times, divide,
power, exponent, sqrt, abs, floor, round, ceil, mod, modulo, fraction, min, max, clamp, saturate, lerp, mix,
smoothstep, step, threshold, remap, range, invert, negate, sine, cosine, tangent, arctangent, log,
exp, dot product, cross product, normalize, length, distance, swizzle, split, combine, append,
channel absolute, uv, texcoord, tiling, rotate, offset, polar, radial, mirror, parallax, bump offset, distort,
warp, flipbook, sprite, sprite sheet, atlas seam, texture, sampler, sample, bitmap, normal, bump, height,
displacement, ambient occlusion, ao, curvature, emissive, emission, glow, opacity, alpha, transparency, cutout,
mip, lod, derivative, ddx, ddy, fwidth, gradient, ramp, curve, lookup, palette, posterize, quantize,
bands, hue, saturation, brightness, contrast, gamma, desaturate, grayscale, luminance, hsv, rgb, linear, srgb,
tint, overlay, screen, world, world position, object position, local, view direction, camera, screen position,
vertex color, vertex colour, instance, time, sun, light direction, facets, low poly, flat shading, outline, edge
detect, silhouette, bounding box, object scale, faceted, dissolve burn hologram, scan lines, shield, snow, moss,
rust, dirt, dust, wear, edge wear, scratches, bricks, tiles, checker, stripes, grid, pebbles, marble, smoke,
fire, lava, ice, glass, cloth, skin, wax, mud, sand, rock, gold, metal, too dark, too bright, tiling visible,
seams, stretching, banding, flicker, washed out, repetition, plastic, blurry, rotate uv, move texture, animate,
loop, unlit, steam, sparks, unpack normal, flow map, detail normal, blend normals, vertex offset, layers,
material blend
"""


def words() -> list[str]:
    return [word.strip() for word in WORDS.replace("\n", " ").split(",")]


def slipped(word: str, draw: random.Random) -> str:
    """The word with one letter left out, doubled, or two of them changed over."""
    at = draw.randrange(1, len(word) - 1)
    return draw.choice(
        (
            word[:at] + word[at + 1 :],
            word[:at] + word[at] + word[at:],
            word[:at] + word[at + 1] + word[at] + word[at + 2 :],
        )
    )


class Words(unittest.TestCase):
    def test_finds_by_name_synonym_and_need(self) -> None:
        self.assertEqual(search("mix")[0].node.key, "mix")
        self.assertEqual(search("complement")[0].node.key, "invert")
        self.assertEqual(search("fresnel")[0].node.key, "view_falloff")
        self.assertEqual(search("swap black")[0].why, "to swap black and white")
        self.assertEqual(search("no such thing anywhere"), [])
        self.assertNotIn("dock", [h.node.key for h in search("")])

    def test_no_word_of_the_trade_comes_up_empty(self) -> None:
        """And what it finds first is called so, wanted for it, or has it among its ports."""
        self.assertGreater(len(words()), 200)
        for word in words():
            with self.subTest(word):
                found = search(word)
                self.assertTrue(found)
                self.assertFalse(found[0].why == found[0].node.help.sentence and len(word.split()) == 1)

    def test_slips_are_forgiven(self) -> None:
        """One in every word of six letters and more. Seed 4."""
        draw = random.Random(4)
        tried = [w for w in words() if len(w) >= 6 and " " not in w and "-" not in w]
        kept = 0
        for word in tried:
            typed = slipped(word, draw)
            meant = {hit.node.key for hit in search(word)[:5]}
            kept += bool(meant & {hit.node.key for hit in search(typed)[:8]})
        self.assertGreater(kept / len(tried), 0.9)

    def test_what_is_meant_comes_first(self) -> None:
        for typed, key in (
            ("anisotropy", "surface"),
            ("low poly", "face_normal"),
            ("flat shading", "face_normal"),
            ("ripple", "waves"),
            ("box mask", "box_mask"),
            ("outline", "view_falloff"),
            ("voronoy", "cell_noise"),
            ("gradeint", "gradient"),
            ("move a texture", "scroll"),
            ("tiling visible", "scattered_texture"),
        ):
            self.assertIn(key, [hit.node.key for hit in search(typed)[:4]], typed)


if __name__ == "__main__":
    unittest.main()
