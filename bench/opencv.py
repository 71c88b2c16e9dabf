"""The yardstick: OpenCV on one thread. Reads orders from stdin, a line each, and answers with a line of JSON."""
import json
import sys
import time

import cv2
import numpy as np

cv2.setNumThreads(1)
folder, width, height = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
size = width * height
raw = np.fromfile(f"{folder}/frames.y", np.uint8)
before, after = raw[:size].reshape(height, width), raw[size : 2 * size].reshape(height, width)
points = np.fromfile(f"{folder}/points.f32", np.float32).reshape(-1, 1, 2)
print(json.dumps(cv2.__version__), flush=True)
for line in sys.stdin:
    order = line.strip()
    start = time.perf_counter()
    answer = None
    if order == "flow":
        criteria = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 20, 0.003)
        found, status, _ = cv2.calcOpticalFlowPyrLK(
            before, after, points, None, winSize=(21, 21), maxLevel=3, criteria=criteria
        )
        answer = [[float(x), float(y), int(ok)] for (x, y), ok in zip(found[:, 0], status[:, 0])]
    elif order == "corners":
        cv2.goodFeaturesToTrack(before, 500, 0.01, 20, blockSize=7)
    elif order == "search":
        x, y = 940, 520
        template = before[y - 20 : y + 21, x - 20 : x + 21]
        area = after[y - 80 : y + 81, x - 80 : x + 81]
        for _ in range(200):
            scores = cv2.matchTemplate(area, template, cv2.TM_CCOEFF_NORMED)
        _, _, _, peak = cv2.minMaxLoc(scores)
        answer = peak
    took = (time.perf_counter() - start) * 1000
    print(json.dumps({"ms": took / (200 if order == "search" else 1), "answer": answer}), flush=True)
