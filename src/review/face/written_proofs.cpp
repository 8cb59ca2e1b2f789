#include "review/face/written_proofs.hpp"

#include <algorithm>

namespace orchard::review {

ProofNotes::ProofNotes(Findings& findings) : findings_(findings) {
  findings_.take_relied_on();
}

void ProofNotes::note(const std::vector<Answer>& answers, const std::string& id) {
  std::vector<Signal> never = findings_.take_relied_on();
  const auto is_proved = [](const Answer& answer) {
    return answer.evidence.reach.kind == Reach::Kind::proved;
  };
  if (std::ranges::none_of(answers, is_proved)) return;
  // That every line ends rests on measures as well, which have no such form.
  if (id == "ends") {
    result_.left_out.push_back(id);
  } else {
    answers_.push_back({id, std::move(never)});
  }
}

Result<WrittenProofs> ProofNotes::write(const std::string& folder) try {
  auto written =
      prove::write_certificate(findings_.exploration().ground(), findings_.game(),
                               findings_.network(), findings_.invariants(), answers_, folder);
  if (!written) return written.diagnostics();
  result_.answers = written->answers;
  result_.invariants = written->invariants;
  result_.queries = written->queries;
  result_.left_out.insert(result_.left_out.end(), written->left_out.begin(),
                          written->left_out.end());
  return result_;
} catch (const Interrupted&) {
  WrittenProofs nothing;
  nothing.left_out = result_.left_out;
  for (const prove::CertifiedAnswer& answer : answers_) nothing.left_out.push_back(answer.id);
  return nothing;
}

}  // namespace orchard::review
