#!/usr/bin/env python3
"""The sheet of a job in a browser: what the owner wrote is only text, nothing is loaded or run, and it
prints on A4.

Usage: sheet.py BUILD SOURCE"""

import os
import re
import subprocess
import sys
import tempfile

NASTY = "<script>document.title='run'</script><img src=x onerror=\"document.title='run'\"> & " + "x" * 5000


def main():
    tool = os.path.join(sys.argv[1], "rimeglass")
    os.chdir(sys.argv[2])
    board = "demo/boards/halvorn64.yaml"

    with tempfile.TemporaryDirectory() as folder:
        job, sheet = os.path.join(folder, "a.job"), os.path.join(folder, "a.html")

        def call(*words, status=0):
            done = subprocess.run([tool, *words], capture_output=True, text=True, check=False)
            if done.returncode != status:
                sys.exit(f"{words}: status {done.returncode}\n{done.stderr}")

        def browser(*words):
            return subprocess.run(
                ["chromium", "--headless", "--no-sandbox", "--disable-gpu", "--window-size=1280,800",
                 f"--user-data-dir={folder}/profile", *words, "file://" + sheet],
                capture_output=True, timeout=120, check=False, env={**os.environ, "HOME": folder}).stdout

        call("job", "new", job, board, "--owner", NASTY, "--symptom", NASTY)
        call("test", board, "--on", "sim:demo/faults/halvorn64-u19.yaml", "--job", job, status=1)
        call("job", "note", job, NASTY)
        call("job", "report", job, "--html", sheet)
        shown = browser("--dump-dom").decode("utf-8", "replace")
        if "<title>Repair of Halvorn 64" not in shown or "<script" in shown or "<img" in shown:
            sys.exit("the page is not what was written: " + shown[:300])
        if shown.count("&lt;script&gt;") < 3 or shown.count("x" * 5000) < 3:
            sys.exit("what the owner wrote is not all there")
        text = open(sheet, encoding="utf-8").read()
        if re.search(r"(?:src|href)=\"(?!#)", text.replace("xlink:href=\"data:", "")):
            sys.exit("it loads something")
        pdf = os.path.join(folder, "a.pdf")
        browser(f"--print-to-pdf={pdf}", "--no-pdf-header-footer")
        printed = open(pdf, "rb").read()
        pages = len(re.findall(rb"/Type\s*/Page\b", printed))
        boxes = re.findall(rb"/MediaBox\s*\[0 0 ([0-9.]+) ([0-9.]+)\]", printed)
        if pages < 2 or not all(590 < float(w) < 600 and 838 < float(h) < 846 for w, h in boxes):
            sys.exit(f"{pages} pages of {boxes}, expected two or more on A4")
        print(f"sheet: {pages} pages on A4")


main()
