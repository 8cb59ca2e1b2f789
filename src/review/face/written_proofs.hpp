// What the answers of a review that are proved rest on, noted as they are made and written for
// others at the end.
#pragma once

#include <string>
#include <vector>

#include "orchard/review.hpp"
#include "prove/certificate.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

class ProofNotes {
 public:
  // The findings must outlive it.
  explicit ProofNotes(Findings& findings) : findings_(findings) {}

  // Of the answers to a question, or to a claim, that the findings know by this id.
  void note(const std::vector<Answer>& answers, const std::string& id);
  // To a folder. Where there is no time for it, everything is left out, and `cut_short` says so.
  // Fails with `cannot-write`.
  Result<WrittenProofs> write(const std::string& folder);

 private:
  Findings& findings_;
  std::vector<prove::CertifiedAnswer> answers_;
  WrittenProofs result_;
};

}  // namespace orchard::review
