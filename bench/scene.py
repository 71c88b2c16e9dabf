"""The same job with OpenCV: corners, sparse flow, a robust similarity a frame, Gaussian smoothing, warp.

scene.py MOVIE analyse            the motion of every frame
scene.py MOVIE all OUT FPS ARGS…  and the steadied movie, encoded by ffmpeg with these arguments
"""

import subprocess
import sys

import cv2
import numpy as np


def frames(path):
    """Grey pictures, or colour ones, decoded by ffmpeg and piped, as ours are."""
    probe = cv2.VideoCapture(path)
    width, height = int(probe.get(3)), int(probe.get(4))
    probe.release()
    pipe = subprocess.Popen(
        ["ffmpeg", "-v", "error", "-i", path, "-f", "rawvideo", "-pix_fmt", "yuv420p", "-"],
        stdout=subprocess.PIPE,
        bufsize=width * height * 3,
    )
    while True:
        data = pipe.stdout.read(width * height * 3 // 2)
        if len(data) < width * height * 3 // 2:
            return
        yield np.frombuffer(data, np.uint8).reshape(height * 3 // 2, width), height


def analyse(path):
    steps = []
    last = points = None
    for yuv, height in frames(path):
        grey = np.ascontiguousarray(yuv[:height])
        if last is not None:
            found, status, _ = cv2.calcOpticalFlowPyrLK(last, grey, points, None, winSize=(21, 21), maxLevel=3)
            good = status.ravel() == 1
            matrix, _ = cv2.estimateAffinePartial2D(points[good], found[good], ransacReprojThreshold=3)
            steps.append((matrix[0, 2], matrix[1, 2], np.arctan2(matrix[1, 0], matrix[0, 0])))
        points = cv2.goodFeaturesToTrack(grey, maxCorners=200, qualityLevel=0.01, minDistance=30)
        last = grey
    return np.array(steps)


def smooth(path, sigma):
    reach = int(4 * sigma)
    kernel = np.exp(-np.arange(-reach, reach + 1) ** 2 / (2 * sigma**2))
    padded = np.pad(path, ((reach, reach), (0, 0)), mode="edge")
    return np.stack([np.convolve(padded[:, c], kernel / kernel.sum(), mode="valid") for c in range(3)], axis=1)


def main():
    path, what = sys.argv[1:3]
    steps = analyse(path)
    if what == "analyse":
        return
    out, rate = sys.argv[3:5]
    way = np.vstack([np.zeros(3), np.cumsum(steps, axis=0)])
    change = smooth(way, float(rate)) - way
    encoder = None
    for k, (yuv, height) in enumerate(frames(path)):
        picture = cv2.cvtColor(yuv, cv2.COLOR_YUV2BGR_I420)
        width = picture.shape[1]
        dx, dy, angle = change[k]
        c, s = 1.05 * np.cos(angle), 1.05 * np.sin(angle)
        x, y = width / 2, height / 2
        matrix = np.array([[c, -s, dx + x - c * x + s * y], [s, c, dy + y - s * x - c * y]])
        steady = cv2.warpAffine(picture, matrix, (width, height), flags=cv2.INTER_CUBIC)
        if encoder is None:
            encoder = subprocess.Popen(
                ["ffmpeg", "-v", "error", "-f", "rawvideo", "-pix_fmt", "yuv420p", "-s", f"{width}x{height}"]
                + ["-r", rate, "-i", "-", *sys.argv[5:], "-y", out],
                stdin=subprocess.PIPE,
            )
        encoder.stdin.write(cv2.cvtColor(steady, cv2.COLOR_BGR2YUV_I420).tobytes())
    encoder.stdin.close()
    encoder.wait()


if __name__ == "__main__":
    main()
