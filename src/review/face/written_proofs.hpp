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
  explicit ProofNotes(Findings& findings);

  // Of the answers of a conclusion that was just made.
  void note(const std::vector<Answer>& answers, const std::string& id);
  // To a folder. Where there is no time for it, everything is left out. Fails with `cannot-write`.
  Result<WrittenProofs> write(const std::string& folder);

 private:
  Findings& findings_;
  std::vector<prove::CertifiedAnswer> answers_;
  WrittenProofs result_;
};

}  // namespace orchard::review
