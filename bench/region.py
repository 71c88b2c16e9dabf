"""A flat region followed with OpenCV, by features and a robust homography, or by its ECC, from the first frame on.

region.py MOVIE features|ecc X,Y;X,Y;X,Y;X,Y    prints the corners of each frame, eight numbers a line
"""

import sys

import cv2
import numpy as np

from scene import frames


def by_features(grey, state, corners):
    """ORB features of the first frame's region matched in each frame, a homography by RANSAC: no drift."""
    orb = state.setdefault("orb", cv2.ORB_create(2000))
    if "first" not in state:
        mask = np.zeros_like(grey)
        cv2.fillConvexPoly(mask, corners.astype(np.int32), 255)
        state["first"] = orb.detectAndCompute(grey, mask)
        state["matcher"] = cv2.BFMatcher(cv2.NORM_HAMMING, crossCheck=True)
        state["last"] = np.eye(3)
        return np.eye(3)
    mask = np.zeros_like(grey)
    last = cv2.perspectiveTransform(corners[None], state["last"])[0]
    middle = last.mean(0)
    cv2.fillConvexPoly(mask, (middle + 1.2 * (last - middle)).astype(np.int32), 255)
    points, marks = orb.detectAndCompute(grey, mask)
    own, told = state["first"]
    if marks is None:
        return state["last"]
    pairs = state["matcher"].match(told, marks)
    if len(pairs) < 8:
        return state["last"]
    a = np.float32([own[p.queryIdx].pt for p in pairs])
    b = np.float32([points[p.trainIdx].pt for p in pairs])
    matrix, _ = cv2.findHomography(a, b, cv2.RANSAC, 2.0)
    if matrix is not None:
        state["last"] = matrix
    return state["last"]


def by_ecc(grey, state, corners):
    """The first frame's region registered to each frame by enhanced correlation (Evangelidis & Psarakis 2008)."""
    if "first" not in state:
        left, top = np.floor(corners.min(0)).astype(int)
        right, bottom = np.ceil(corners.max(0)).astype(int)
        state["first"] = grey[top:bottom, left:right].copy()
        mask = np.zeros_like(grey)
        cv2.fillConvexPoly(mask, corners.astype(np.int32), 255)
        state["origin"] = np.array([[1, 0, left], [0, 1, top], [0, 0, 1]], np.float64)
        state["last"] = state["origin"].copy()
        return np.eye(3)
    start = state["last"].astype(np.float32)
    try:
        end = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 30, 1e-5)
        _, matrix = cv2.findTransformECC(state["first"], grey, start, cv2.MOTION_HOMOGRAPHY, end, None, 5)
        state["last"] = matrix.astype(np.float64)
    except cv2.error:
        pass
    return state["last"] @ np.linalg.inv(state["origin"])


def main():
    path, how, told = sys.argv[1:4]
    corners = np.float32([[float(v) for v in pair.split(",")] for pair in told.split(";")])
    state = {}
    for yuv, height in frames(path):
        grey = np.ascontiguousarray(yuv[:height])
        matrix = (by_features if how == "features" else by_ecc)(grey, state, corners)
        placed = cv2.perspectiveTransform(corners[None], matrix)[0]
        print(" ".join(f"{v:.4f}" for v in placed.ravel()))


if __name__ == "__main__":
    main()
