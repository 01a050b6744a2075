"""`make demo`: the invented shop with its scale on this machine."""

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

HOST = "127.0.0.1"


class Command(BaseCommand):
    help = (
        "Fill the demo shop, start the scale bridge, the probe and the web server; Ctrl-C ends all."
    )

    def handle(self, *args: Any, **options: Any) -> None:
        port, scale_port, probe_port = settings.PORT, settings.SCALE_PORT, settings.PROBE_PORT
        ports = (
            (port, "PORT"),
            (scale_port, "SCALE_PORT"),
            (probe_port, "PROBE_PORT"),
            (settings.TRIM_PORT, "TRIM_PORT"),
            (settings.SOLVER_PORT, "SOLVER_PORT"),
            (settings.TESTER_PORT, "TESTER_PORT"),
            (settings.PRINTER_PORT, "PRINTER_PORT"),
        )
        for wanted, name in ports:
            with socket.socket() as tried:
                if tried.connect_ex((HOST, wanted)) == 0:
                    raise CommandError(
                        f"Port {wanted} is taken; set {name} to another, for "
                        f"example: make demo {name}={wanted + 10}"
                    )
        Path(settings.DATABASES["default"]["NAME"]).parent.mkdir(parents=True, exist_ok=True)
        call_command("demo_data", stdout=self.stdout)
        self._collect_static()
        pages = [f"http://{name}:{port}" for name in (HOST, "localhost")]
        bridges = []
        for name, at in (("block", scale_port), ("trim", settings.TRIM_PORT)):
            bridge = [sys.executable, "-m", "devices.bridge", "--port", str(at), "--name", name]
            for page in pages:
                bridge += ["--page", page]
            bridges.append(bridge)
        web = [
            sys.executable,
            "-m",
            "gunicorn",
            "mindful_tally.wsgi",
            "--bind",
            f"{HOST}:{port}",
            "--log-level",
            "warning",
            "--graceful-timeout",
            "2",
        ]
        probe = [
            sys.executable,
            "-m",
            "devices.probe",
            "--key",
            settings.PROBE_KEY,
            "--to",
            f"http://{HOST}:{port}/cooler/readings/",
            "--port",
            str(probe_port),
        ]
        solver = [sys.executable, "-m", "mindful_tally.solver", "--port", str(settings.SOLVER_PORT)]
        tester = [sys.executable, "-m", "devices.fat_tester", "--port", str(settings.TESTER_PORT)]
        outbox = str(Path(settings.DATABASES["default"]["NAME"]).parent / "outbox")
        printer = [sys.executable, "-m", "devices.label_printer", "--outbox", outbox]
        printer += ["--port", str(settings.PRINTER_PORT)]
        environment = {
            **os.environ,
            "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.demo",
            "SCALE_KEY": settings.SCALE_KEY,
        }
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        started = [
            subprocess.Popen(command, cwd=settings.ROOT, env=environment)  # noqa: S603
            for command in (*bridges, web, probe, solver, tester, printer)
        ]
        self.stdout.write(f"scales: http://{HOST}:{scale_port}/panel and {settings.TRIM_PORT}")
        self.stdout.write(f"probe: http://{HOST}:{probe_port}/panel")
        self.stdout.write(f"fat tester: http://{HOST}:{settings.TESTER_PORT}/panel")
        self.stdout.write(f"label printer: http://{HOST}:{settings.PRINTER_PORT}/panel")
        self.stdout.write(f"office log-in: {settings.DEMO_LOGIN}; PINs: {settings.DEMO_PINS}")
        self.stdout.write(f"ready: http://{HOST}:{port}/  (Ctrl-C ends it)")
        self.stdout.flush()
        try:
            while all(process.poll() is None for process in started):
                time.sleep(0.3)
            self.stdout.write("One of them stopped; ending the others.")
        except KeyboardInterrupt:
            self.stdout.write("ending")
        finally:
            for process in started:
                process.terminate()
            for process in started:
                process.wait(timeout=10)

    def _collect_static(self) -> None:
        """Only when a file is newer than the last collection."""
        stamp = Path(settings.STATIC_ROOT) / "staticfiles.json"
        sources = [p for d in settings.STATICFILES_DIRS for p in Path(d).rglob("*") if p.is_file()]
        newest = max(path.stat().st_mtime for path in sources)
        if stamp.exists() and stamp.stat().st_mtime > newest:
            return
        self.stdout.write("static files: collecting and compressing")
        call_command("collectstatic", verbosity=0, interactive=False, clear=True)
