#!/usr/bin/env python3
"""A player of the open match protocol in a hundred lines, by the standard library alone.

    python3 examples/protocol/random_player.py 9201
    orchard host examples/protocol/two_beds.gdl --seat north=http://127.0.0.1:9201

It knows nothing of how rules are worked out: it plays games in which what is legal stands in the
rules as it is, a rule (<= (legal ?who (MOVE ?x)) … (RELATION ?x)) over facts (RELATION VALUE), and
chooses among those moves at random.
"""
import random
import re
import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer


def read(text):
    """A list of the language as nested Python lists of lower-case words."""
    text = re.sub(r";[^\n]*", "", text).lower()
    stack = [[]]
    for word in re.findall(r"[()]|[^\s()]+", text):
        if word == "(":
            stack.append([])
        elif word == ")":
            done = stack.pop()
            stack[-1].append(done)
        else:
            stack[-1].append(word)
    return stack[0][0]


def write(term):
    return term if isinstance(term, str) else "(" + " ".join(map(write, term)) + ")"


def moves_of(rules):
    """What the rules say is legal for everybody at any time."""
    facts = {}
    for rule in rules:
        if isinstance(rule, list) and len(rule) == 2 and isinstance(rule[1], str):
            facts.setdefault(rule[0], []).append(rule[1])
    moves = []
    for rule in rules:
        if not (isinstance(rule, list) and rule[0] == "<=" and rule[1][0] == "legal"):
            continue
        move = rule[1][2]
        variable = move[1]
        for condition in rule[2:]:
            if condition[1] == variable:
                moves += [[move[0], value] for value in facts.get(condition[0], [])]
    return moves


class Player(BaseHTTPRequestHandler):
    matches = {}  # ID → its moves

    def answer(self, message):
        kind = message[0]
        if kind == "info":
            return "((name random_player) (status available))"
        if kind == "start":
            self.matches[message[1]] = moves_of(message[3])
            return "ready"
        if kind == "play":
            return write(random.choice(self.matches[message[1]]))
        if kind == "stop":
            self.matches.pop(message[1])
            return "done"
        if kind == "abort":
            self.matches.pop(message[1], None)
            return "aborted"
        return "ready"  # preview

    def do_POST(self):
        body = self.rfile.read(int(self.headers["Content-Length"])).decode()
        try:
            status, reply = 200, self.answer(read(body))
        except KeyError:
            status, reply = 404, "there is no such match"
        except (IndexError, TypeError):
            status, reply = 400, "this makes no sense"
        data = reply.encode()
        self.send_response(status)
        self.send_header("Content-Type", "text/acl")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, *_):
        pass


if __name__ == "__main__":
    server = ThreadingHTTPServer(("127.0.0.1", int(sys.argv[1]) if len(sys.argv) > 1 else 0), Player)
    print(f"http://127.0.0.1:{server.server_port}", flush=True)
    server.serve_forever()
