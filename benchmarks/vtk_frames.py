"""VTK's flat picture of the same triangles, in a process of its own: two OpenGL libraries in one do not get on.

``python -m benchmarks.vtk_frames STORE``: for every camera that comes as a line of JSON the seconds of a frame go back.
"""

from __future__ import annotations

import json
import subprocess
import sys
import time
from pathlib import Path

import vtk

from anatome.formats.store import load_building
from anatome.view.camera import Camera
from benchmarks.cutting import vtk_mesh


class VtkFrames:
    """The other process, seen from this one."""

    def __init__(self, store: Path, size: tuple[int, int]) -> None:
        command = [sys.executable, "-m", "benchmarks.vtk_frames", str(store), *map(str, size)]
        self._process = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        )

    def seconds(self, camera: Camera) -> float:
        """A frame from a camera."""
        assert self._process.stdin is not None and self._process.stdout is not None
        self._process.stdin.write(camera.model_dump_json() + "\n")
        self._process.stdin.flush()
        return float(self._process.stdout.readline())

    def close(self) -> None:
        self._process.kill()
        self._process.wait()


def main() -> None:
    building = load_building(Path(sys.argv[1]))
    assert building is not None
    mapper = vtk.vtkPolyDataMapper()
    mapper.SetInputData(vtk_mesh(building))
    actor = vtk.vtkActor()
    actor.SetMapper(mapper)
    actor.GetProperty().SetInterpolationToFlat()
    scene = vtk.vtkRenderer()
    scene.AddActor(actor)
    window = vtk.vtkRenderWindow()
    window.SetOffScreenRendering(1)
    window.SetMultiSamples(0)
    window.SetSize(int(sys.argv[2]), int(sys.argv[3]))
    window.AddRenderer(scene)
    for line in sys.stdin:
        camera = Camera.model_validate(json.loads(line))
        view = scene.GetActiveCamera()
        view.SetPosition(*camera.eye)
        view.SetFocalPoint(*camera.target)
        view.SetViewUp(*camera.up)
        view.SetParallelProjection(not camera.is_perspective)
        view.SetParallelScale(camera.height / 2)
        view.SetViewAngle(camera.field)
        scene.ResetCameraClippingRange()
        began = time.perf_counter()
        window.Render()
        window.WaitForCompletion()
        print(time.perf_counter() - began, flush=True)


if __name__ == "__main__":
    main()
