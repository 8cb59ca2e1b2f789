// Checks proofs that clauses cannot hold together, as slowly and plainly as can be.
#pragma once

#include <string>

namespace orchard::testing {

// Whether a proof in the DRAT format, as text, shows that what a DIMACS text says cannot be
// satisfied. Source: Wetzler, Heule and Hunt, "DRAT-trim: efficient checking and trimming using
// expressive clausal proofs" (2014). O(lines of the proof × clauses × propagations).
bool is_refutation(const std::string& dimacs, const std::string& proof);

}  // namespace orchard::testing
