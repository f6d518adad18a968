"""What training a small net takes, whichever it is; run in TensorFlow's own environment, in which nothing
of the program is there.

Crops and what is told of them come from `FOLDER/crops.npz` and `FOLDER/held-back.npz`; the net and its card
go beside them.
"""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["BATCH", "evened", "small_net", "train"]

BATCH, EVEN_LEVELS = 128, 6.0
Crops = NDArray[np.uint8]
Told = NDArray[np.float32]


def small_net(
    side: int, layers: tuple[tuple[int, int], ...], dropout: float, dense: int, said: int
) -> Any:
    """Convolutions of three by three (how wide, with what step), a full layer, and so many numbers said."""
    import tensorflow as tf

    keep = tf.keras
    shown = keep.Input((side, side, 3))
    x = shown
    for wide, stride in layers:
        x = keep.layers.Conv2D(wide, 3, stride, "same", use_bias=False)(x)
        x = keep.layers.BatchNormalization()(x)
        x = keep.layers.ReLU()(x)
    x = keep.layers.Flatten()(x)
    x = keep.layers.Dropout(dropout)(x)
    x = keep.layers.Dense(dense, activation="relu")(x)
    return keep.Model(shown, keep.layers.Dense(said)(x))


def evened(crops: Crops) -> NDArray[np.float32]:
    """Crops without their light: the mean colour taken out, divided by the spread of all three."""
    plain = crops.astype(np.float32)
    plain -= plain.mean(axis=(1, 2), keepdims=True)
    return np.asarray(plain / (plain.std(axis=(1, 2, 3), keepdims=True) + EVEN_LEVELS), np.float32)


def train(
    room: Path,
    name: str,
    seed: int,
    epochs: int,
    net: Callable[[int], Any],
    loss: Callable[[Any, Any], Any],
    sideways: list[int],
    measured: Callable[[Any, Told], dict[str, float]],
) -> None:
    """Train a net on the crops, each as often as not in the mirror, in which the numbers `sideways` change
    their sign; measure it on those held back, and write it in half precision with its card."""
    import tensorflow as tf

    tf.keras.utils.set_random_seed(seed)
    kept, held_back = (np.load(room / f"{part}.npz") for part in ("crops", "held-back"))
    crops, told = kept["crops"], kept["told"]
    print(f"{len(crops)} crops", flush=True)
    model = net(crops.shape[1])
    steps = epochs * (len(crops) // BATCH)
    pace = tf.keras.optimizers.schedules.CosineDecay(2e-3, steps)
    model.compile(tf.keras.optimizers.Adam(pace, clipnorm=5.0), loss)

    def portions() -> Any:
        dice = np.random.default_rng(seed)
        while True:
            order = dice.permutation(len(crops))
            for at in range(0, len(order) - BATCH + 1, BATCH):
                rows = order[at : at + BATCH]
                shown, what = evened(crops[rows]), told[rows].copy()
                flip = dice.uniform(size=len(rows)) < 0.5
                shown[flip] = shown[flip, :, ::-1]
                turned = what[flip]
                turned[:, sideways] *= -1
                what[flip] = turned
                yield shown, what

    model.fit(portions(), steps_per_epoch=len(crops) // BATCH, epochs=epochs, verbose=2)
    said = model.predict(evened(held_back["crops"]), batch_size=512, verbose=0)
    card = measured(said, held_back["told"])
    card |= {"weights": int(model.count_params()), "crops": len(crops), "seed": seed}
    converter = tf.lite.TFLiteConverter.from_keras_model(model)
    converter.optimizations = [tf.lite.Optimize.DEFAULT]
    converter.target_spec.supported_types = [tf.float16]
    (room / f"{name}.tflite").write_bytes(converter.convert())
    (room / f"{name}.json").write_text(
        json.dumps(card | {"tensorflow": tf.__version__}, indent=1) + "\n"
    )
