"""What people usually do with the program, in repositories as people have them: scripts/speed times it, scripts/startup-order looks what runs,
and scripts/profile how often."""

import json
import os
import pathlib
import shutil
import subprocess
import sys

HOUSE = pathlib.Path(__file__).resolve().parent.parent
ENVIRONMENT = {**os.environ, "GIT_CONFIG_GLOBAL": "/dev/null", "GIT_CONFIG_SYSTEM": "/dev/null", "HOME": "/nonexistent"}

# The target of the program that scripts/pack hands out for this kind of machine.
STATIC = "x86_64-unknown-linux-musl"

REMOTE = "https://forge.example/island/ferry.git"
# What the hook of a push calls, with what `pushed` says.
PUSH = ["guard", "check", "origin", REMOTE]

# The copy of the demo, and what is called there, the most usual first.
CALLS = [
    ("healthy", ["check"]),
    ("healthy_gitlab", ["check"]),
    ("faulty", ["check"]),
    ("faulty_gitlab", ["check"]),
    ("other_formats", ["check"]),
    ("healthy", PUSH),
    ("faulty", PUSH),
    ("faulty", ["mend"]),
    ("healthy", ["when"]),
    ("healthy", ["trail"]),
    ("healthy", ["facts"]),
    ("healthy", ["guard", "status"]),
]


def built(place, target=None, flags=(), environment=None):
    """The release build of the program, made in a folder of its own: for this machine, or for a target, with flags that hold for nothing which
    runs while building."""
    command = ["cargo", "build", "--release", "--locked", "-p", "dulk", "--target-dir", place]
    if target:
        command += ["--target", target, "--config", f"target.{target}.rustflags={json.dumps(flags)}"]
    subprocess.run(command, cwd=HOUSE, env={**os.environ, **(environment or {})}, check=True, stdout=sys.stderr)
    return place / (target or "") / "release/dulk"


def demo(path):
    """A file of the demo, as a text."""
    return (HOUSE / "demo" / path).read_text()


def workflows(texts):
    """A workflow file of each text, in which its number stands for NUMBER."""
    return {f".github/workflows/{number}.yml": text.replace("NUMBER", str(number)) for number, text in enumerate(texts)}


def repository(folder, copy="healthy", files=None):
    """A copy of the demo as people have it: cloned from where it was committed. With `files`, texts by their paths, those are its pipelines."""
    far = folder.with_name(f"{folder.name}.far")
    shutil.copytree(HOUSE / "demo" / copy, far)
    if files:
        shutil.rmtree(far / ".github")
    for path, text in (files or {}).items():
        (far / path).parent.mkdir(parents=True, exist_ok=True)
        (far / path).write_text(text)
    person = ["-c", "user.name=ferry", "-c", "user.email=ferry@island.example"]
    for place, call in (
        (far, ["init", "-q", "-b", "main"]),
        (far, ["add", "-A"]),
        (far, [*person, "commit", "-q", "-m", "Timetable"]),
        (far, ["clone", "-q", "--no-local", far, folder]),
        (folder, ["remote", "set-url", "origin", REMOTE]),
    ):
        subprocess.run(["git", *call], cwd=place, env=ENVIRONMENT, check=True)
    return folder


def pushed(folder):
    """What git tells the hook of a push of all that is committed, to a remote that has nothing yet."""
    asked = subprocess.run(["git", "rev-parse", "HEAD"], cwd=folder, env=ENVIRONMENT, check=True, capture_output=True, text=True)
    return f"refs/heads/main {asked.stdout.strip()} refs/heads/main {'0' * 40}\n".encode()
