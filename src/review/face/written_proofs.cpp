#include "review/face/written_proofs.hpp"

namespace orchard::review {

void ProofNotes::note(const std::vector<Answer>& answers, const std::string& id) {
  std::string proved;
  for (const Answer& answer : answers) {
    if (answer.evidence.reach.kind != Reach::Kind::proved) continue;
    proved += (proved.empty() ? "" : ", ") + answer.id;
  }
  if (proved.empty()) return;
  if (findings_.rests_on_steps(id)) {
    result_.left_out.push_back(proved);
  } else {
    answers_.push_back({proved, findings_.relied_on(id)});
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
  result_.cut_short = !written->left_out.empty();
  result_.left_out.insert(result_.left_out.end(), written->left_out.begin(),
                          written->left_out.end());
  return result_;
} catch (const Interrupted&) {
  WrittenProofs nothing;
  nothing.cut_short = true;
  nothing.left_out = result_.left_out;
  for (const prove::CertifiedAnswer& answer : answers_) nothing.left_out.push_back(answer.id);
  return nothing;
}

}  // namespace orchard::review
