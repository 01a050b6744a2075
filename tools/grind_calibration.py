"""Is a stated chance how often it comes true? Prints the tables of docs/grinder.md.

python tools/grind_calibration.py
"""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from cutting.grinding.judging import How
from tests.cutting.grinding.calibration import calibration

HEAD = "| stated chance | batches | told in the mean | was over |\n|---|---:|---:|---:|"


def main() -> None:
    for how, words in ((How.EYE, "by eye"), (How.TESTER, "by the tester")):
        print(f"\n**Judged {words}.**\n\n{HEAD}")
        for number, own in enumerate(calibration(how, shops=400, batches=50, learned=True)):
            print(own.row(number))


if __name__ == "__main__":
    main()
