/** A chart as a file. */

/** A picture of so many times as many pixels as it has on screen. */
export async function pngOf(svg: string, scale = 2): Promise<Blob> {
  const image = new Image();
  const address = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    await new Promise((done, failed) => {
      image.onload = done;
      image.onerror = failed;
      image.src = address;
    });
    const canvas = document.createElement('canvas');
    canvas.width = image.width * scale;
    canvas.height = image.height * scale;
    const pen = canvas.getContext('2d');
    if (!pen) throw new Error('no canvas');
    pen.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await new Promise((done, failed) =>
      canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('no picture'))), 'image/png'),
    );
  } finally {
    URL.revokeObjectURL(address);
  }
}
