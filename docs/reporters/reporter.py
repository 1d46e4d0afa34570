"""A reporter for Python's unittest: python3 reporter.py [names of test modules]
Streams each test to Iskel as an attempt. Copy it and change what your runner tells differently."""
import json, os, sys, time, unittest, urllib.request

BASE = os.environ.get("ISKEL", "http://127.0.0.1:4870")
RUN = os.environ.get("ISKEL_RUN", "python " + time.strftime("%Y-%m-%d %H:%M:%S"))


def send(path, body, kind="application/json"):
    request = urllib.request.Request(BASE + "/api" + path, body.encode(), {"content-type": kind}, method="POST")
    with urllib.request.urlopen(request) as answer:
        return json.load(answer)


class Reporter(unittest.TextTestResult):
    def startTest(self, test):
        super().startTest(test)
        self.began = time.time()

    def tell(self, test, status, message="", stack=""):
        took = (time.time() - self.began) * 1000
        suite, title = test.id().rsplit(".", 1)
        attempt = send("/attempts", json.dumps({
            "key": test.id(), "run": RUN, "startedAt": self.began * 1000,
            "test": {"suite": suite, "title": title, "file": sys.modules[type(test).__module__].__file__ or ""},
        }))["id"]
        event = {"id": "whole", "lane": "step", "at": 0, "until": took, "data": {"label": title}}
        send(f"/attempts/{attempt}/events", json.dumps(event), "application/x-ndjson")
        outcome = {"status": status, "message": message, "stack": stack, "durationMs": took}
        send(f"/attempts/{attempt}/outcome", json.dumps(outcome))

    def addSuccess(self, test): super().addSuccess(test); self.tell(test, "passed")
    def addSkip(self, test, reason): super().addSkip(test, reason); self.tell(test, "skipped", reason)
    def addFailure(self, test, err): super().addFailure(test, err); self.tell(test, "failed", str(err[1]), self.failures[-1][1])
    def addError(self, test, err): super().addError(test, err); self.tell(test, "errored", str(err[1]), self.errors[-1][1])


if __name__ == "__main__":
    unittest.main(module=None, testRunner=unittest.TextTestRunner(resultclass=Reporter))
