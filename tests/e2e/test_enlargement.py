"""The core enlarges as the browser does: what is measured is what a visitor sees."""

import base64
import io

import cv2
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.pixels import enlarged
from tests.builders import file, photo

pytestmark = pytest.mark.e2e


@pytest.mark.parametrize("small", [(120, 80), (90, 60), (57, 38)])
@pytest.mark.parametrize("how", ["img", "canvas"])
def test_chromium_enlarges_like_the_core(
    blank_page: Page, small: tuple[int, int], how: str
) -> None:
    pixels = photo(*small)
    shown = _shown(blank_page, pixels, how, 160, 107)
    difference = np.abs(shown.astype(int) - enlarged(pixels, 160, 107))
    cubic = cv2.resize(pixels, (160, 107), interpolation=cv2.INTER_CUBIC)
    # Measured: at most 7 codes and 0.7 on average, the browser's positions being rounded.
    assert difference.max() <= 8
    assert difference.mean() < 0.8
    assert difference.mean() < 0.5 * np.abs(shown.astype(int) - cubic).mean()


def _shown(page: Page, pixels: U8, how: str, width_px: int, height_px: int) -> U8:
    url = "data:image/png;base64," + base64.b64encode(file(pixels)).decode()
    page.set_content("<style>body { margin: 0 } img, canvas { display: block }</style>")
    page.evaluate(
        """async ([url, how, width, height]) => {
          const picture = new Image()
          picture.src = url
          await picture.decode()
          if (how === 'canvas') {
            const canvas = document.createElement('canvas')
            Object.assign(canvas, { width, height })
            canvas.getContext('2d').drawImage(picture, 0, 0, width, height)
            document.body.append(canvas)
          } else {
            Object.assign(picture, { width, height })
            document.body.append(picture)
          }
        }""",
        [url, how, width_px, height_px],
    )
    shot = page.locator("img, canvas").screenshot()
    return np.asarray(Image.open(io.BytesIO(shot)).convert("RGB"))
