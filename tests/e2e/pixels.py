"""What Chromium shows of a file."""

import base64

import numpy as np
from playwright.sync_api import Page

from lean_parcel.core.arrays import U8

#: The size of all pictures that are looked at.
WIDTH_PX, HEIGHT_PX = 280, 200


def shown(page: Page, data: bytes, kind: str) -> U8:
    """The pixels that the browser decodes."""
    encoded = page.evaluate(
        """async (url) => {
          const picture = new Image()
          picture.src = url
          await picture.decode()
          const canvas = document.createElement('canvas')
          Object.assign(canvas, { width: picture.width, height: picture.height })
          const context = canvas.getContext('2d')
          context.drawImage(picture, 0, 0)
          const { data } = context.getImageData(0, 0, picture.width, picture.height)
          let told = ''
          for (let at = 0; at < data.length; at += 8192)
            told += String.fromCharCode(...data.subarray(at, at + 8192))
          return btoa(told)
        }""",
        f"data:image/{kind};base64,{base64.b64encode(data).decode()}",
    )
    samples = np.frombuffer(base64.b64decode(encoded), np.uint8)
    return samples.reshape(HEIGHT_PX, WIDTH_PX, 4)[..., :3]
