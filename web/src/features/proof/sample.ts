/** The colour of a picture at a place: the middle of the nine pixels around it, so that noise does not count. */
export function sampleAt(image: CanvasImageSource, x: number, y: number): string | null {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 3;
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) return null;
  context.drawImage(image, Math.floor(x) - 1, Math.floor(y) - 1, 3, 3, 0, 0, 3, 3);
  return middleColour(context.getImageData(0, 0, 3, 3).data);
}

/** The median of each channel over RGBA pixels, as #rrggbb; null where nothing is painted. */
export function middleColour(data: Uint8ClampedArray): string | null {
  const channels: number[][] = [[], [], []];
  for (let k = 0; k < data.length; k += 4) {
    if (data[k + 3] === 0) continue;
    channels.forEach((channel, index) => channel.push(data[k + index]!));
  }
  if (!channels[0]!.length) return null;
  const middle = channels.map((channel) => channel.sort((a, b) => a - b)[Math.floor(channel.length / 2)]!);
  return `#${middle.map((value) => value.toString(16).padStart(2, "0")).join("")}`;
}
