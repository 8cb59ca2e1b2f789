// Rules for tests of the match protocol, as messages carry them.
#pragma once

#include <string>

namespace orchard::protocol {

// Two roles take turns and pick one of three baskets; who picks the last one wins.
inline const std::string baskets =
    "(role east)\n(role west)\n(after east west)\n(after west east)\n"
    "(basket left)\n(basket middle)\n(basket right)\n"
    "(init (turn east))\n(init (full left))\n(init (full middle))\n(init (full right))\n"
    "(<= (legal ?who (pick ?basket)) (true (turn ?who)) (true (full ?basket)))\n"
    "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
    "(<= (next (turn ?next)) (true (turn ?who)) (after ?who ?next))\n"
    "(<= (picked ?basket) (does ?who (pick ?basket)))\n"
    "(<= (next (full ?basket)) (true (full ?basket)) (not (picked ?basket)))\n"
    "(<= some_full (true (full ?basket)))\n"
    "(<= terminal (not some_full))\n"
    "(<= (goal ?who 0) (true (turn ?who)))\n"
    "(<= (goal ?who 100) (role ?who) (not (true (turn ?who))))\n";

// One hides an apple, the other guesses where: it hears only whether it was right.
inline const std::string hiding =
    "(role finder)\n(role random)\n(crate 1)\n(crate 2)\n(crate 3)\n(init unhidden)\n"
    "(<= (legal random (hide ?crate)) (true unhidden) (crate ?crate))\n"
    "(<= (legal random wait) (not (true unhidden)))\n"
    "(<= (legal finder wait) (true unhidden))\n"
    "(<= (legal finder (open ?crate)) (not (true unhidden)) (crate ?crate)\n"
    "    (not (true (opened ?crate))))\n"
    "(<= (next (apple ?crate)) (does random (hide ?crate)))\n"
    "(<= (next (apple ?crate)) (true (apple ?crate)))\n"
    "(<= (next (opened ?crate)) (does finder (open ?crate)))\n"
    "(<= (next (opened ?crate)) (true (opened ?crate)))\n"
    "(<= (sees finder found) (does finder (open ?crate)) (true (apple ?crate)))\n"
    "(<= found_it (true (apple ?crate)) (true (opened ?crate)))\n"
    "(<= terminal found_it)\n"
    "(<= (tries 1) (true (opened ?crate)))\n"
    "(<= (goal finder 100) found_it)\n(<= (goal finder 0) (not found_it))\n";

}  // namespace orchard::protocol
