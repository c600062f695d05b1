"""From rooms to pixels, without a window: atlases, sprites and the order in which they lie.

Pixels are 32-bit words 0xAARRGGBB with premultiplied alpha, the form a raster view copies
without a change; `as_rgba` turns them into straight RGBA bytes.
"""
