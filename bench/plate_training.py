"""Trains the judge of plates on crops that `bench.plate_judge` has made; run in TensorFlow's own environment.

Nothing of the program is imported here: `python plate_training.py FOLDER` reads crops.npz and held-back.npz
there, and writes plate-judge.tflite and plate-judge.json.
"""

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

SEED, EPOCHS, BATCH = 7, 8, 128
EVEN_LEVELS = 6.0


def net(side: int) -> Any:
    import tensorflow as tf

    keep = tf.keras
    shown = keep.Input((side, side, 3))
    x = shown
    for wide, stride in ((16, 2), (24, 1), (32, 2), (32, 1), (48, 2), (64, 1), (64, 2)):
        x = keep.layers.Conv2D(wide, 3, stride, "same", use_bias=False)(x)
        x = keep.layers.BatchNormalization()(x)
        x = keep.layers.ReLU()(x)
    x = keep.layers.Flatten()(x)
    x = keep.layers.Dropout(0.15)(x)
    x = keep.layers.Dense(64, activation="relu")(x)
    return keep.Model(shown, keep.layers.Dense(4)(x))


def loss(told: Any, said: Any) -> Any:
    """Cross entropy where it is taught, and the size of the mending's error where there is one."""
    import tensorflow as tf

    right, taught, mended = told[:, 0], told[:, 1], told[:, 5]
    sure = tf.nn.sigmoid_cross_entropy_with_logits(right, said[:, 0]) * taught
    off = tf.reduce_sum(tf.abs(told[:, 2:5] - said[:, 1:]), axis=1) * mended
    return tf.reduce_mean(sure + 2.0 * off)


def evened(crops: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Crops without their light: the mean colour taken out, divided by the spread of all three."""
    plain = crops.astype(np.float32)
    plain -= plain.mean(axis=(1, 2), keepdims=True)
    return np.asarray(plain / (plain.std(axis=(1, 2, 3), keepdims=True) + EVEN_LEVELS), np.float32)


def train(room: Path) -> None:
    import tensorflow as tf

    tf.keras.utils.set_random_seed(SEED)
    kept, held_back = (np.load(room / f"{name}.npz") for name in ("crops", "held-back"))
    crops, told = kept["crops"], kept["told"]
    print(f"{len(crops)} crops, {told[:, 0].mean():.2f} of them rims", flush=True)
    model = net(crops.shape[1])
    steps = EPOCHS * (len(crops) // BATCH)
    pace = tf.keras.optimizers.schedules.CosineDecay(2e-3, steps)
    model.compile(tf.keras.optimizers.Adam(pace), loss)

    def portions() -> Any:
        dice = np.random.default_rng(SEED)
        while True:
            order = dice.permutation(len(crops))
            for at in range(0, len(order) - BATCH + 1, BATCH):
                rows = order[at : at + BATCH]
                shown, what = evened(crops[rows]), told[rows].copy()
                flip = dice.uniform(size=len(rows)) < 0.5
                shown[flip] = shown[flip, :, ::-1]
                what[flip, 2] *= -1
                yield shown, what

    model.fit(portions(), steps_per_epoch=len(crops) // BATCH, epochs=EPOCHS, verbose=2)
    card = measured(model, held_back["crops"], held_back["told"])
    card |= {"weights": int(model.count_params()), "crops": len(crops), "seed": SEED}
    card |= {"tensorflow": tf.__version__}
    converter = tf.lite.TFLiteConverter.from_keras_model(model)
    converter.optimizations = [tf.lite.Optimize.DEFAULT]
    converter.target_spec.supported_types = [tf.float16]
    (room / "plate-judge.tflite").write_bytes(converter.convert())
    (room / "plate-judge.json").write_text(json.dumps(card, indent=1) + "\n")
    print(json.dumps(card))


def measured(model: Any, crops: NDArray[np.uint8], told: NDArray[np.float32]) -> dict[str, float]:
    """What the net does on scenes that it has not seen."""
    said = model.predict(evened(crops), batch_size=512, verbose=0)
    taught, right = told[:, 1] > 0, told[:, 0] > 0
    yes = said[:, 0] > 0
    mended = told[:, 5] > 0
    off = np.abs(told[mended, 2:5] - said[mended, 1:])
    return {
        "found_of_rims": round(float(yes[right].mean()), 4),
        "false_of_others": round(float(yes[taught & ~right].mean()), 4),
        "place_off_median": round(float(np.median(np.hypot(off[:, 0], off[:, 1]))), 4),
        "size_off_median": round(float(np.median(off[:, 2])), 4),
    }


if __name__ == "__main__":
    train(Path(sys.argv[1]))
