// What a proof by induction rests on, in files that others can check.
//
// A certificate says of some answers why what they exclude shows in no reachable position: by
// invariants, which exclude more than the answers do and are kept by every legal joint move.
// Written are the invariants as claims in the language of the rules, the network with them as
// further outputs (AIGER), and for each step of the proof a formula that cannot be satisfied
// (DIMACS) with a proof of that (DRAT): `start`, nothing excluded holds at the start; `step_N`,
// where no invariant is broken none is after a ply; `answer_N`, nor does what the answer excludes
// show then. Invariants that none of it needs are left out. One thread.
#pragma once

#include <string>
#include <vector>

#include "circuit/programs/game_network.hpp"
#include "orchard/diagnostic.hpp"

namespace orchard::prove {

// What is proved to hold in no reachable position for an answer; nothing where the network itself
// has nothing of the kind.
struct CertifiedAnswer {
  std::string id;
  std::vector<circuit::Signal> never;
};

struct Certificate {
  std::size_t answers = 0;     // written whole
  std::size_t invariants = 0;  // that they need
  std::size_t queries = 0;
  std::vector<std::string> left_out;  // answers for which the time did not suffice
};

// Writes to a folder, which is made if it is not there; files of an earlier certificate in it are
// replaced. `invariants`: an inductive set. `network`: that of the game with the gates of all
// these. Fails with `cannot-write`. Leaves by `Interrupted` where not even the first answer is done
// in time.
Result<Certificate> write_certificate(const ground::GroundProgram& ground,
                                      const circuit::GameNetwork& game,
                                      const circuit::Network& network,
                                      const std::vector<circuit::Signal>& invariants,
                                      const std::vector<CertifiedAnswer>& answers,
                                      const std::string& folder);

}  // namespace orchard::prove
