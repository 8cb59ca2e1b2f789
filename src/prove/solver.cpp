#include "prove/solver.hpp"

#include <cadical.hpp>

#include <stdexcept>

#include "base/interruption.hpp"

namespace orchard::prove {

namespace {

// Of the numbers that solvers answer with.
Solver::Answer answer_of(int status) {
  switch (status) {
    case 10:
      return Solver::Answer::possible;
    case 20:
      return Solver::Answer::impossible;
    default:
      return Solver::Answer::unknown;
  }
}

}  // namespace

// Asked by the solver as it works.
class Solver::Effort : public CaDiCaL::Terminator {
 public:
  bool terminate() override { return ++steps > most || over(); }
  bool over() {
    ended = ended || Interruption::asked();
    return ended;
  }

  std::uint64_t steps = 0;
  std::uint64_t most = ~std::uint64_t{0};
  bool ended = false;
};

Solver::Solver()
    : effort_(std::make_unique<Effort>()), solver_(std::make_unique<CaDiCaL::Solver>()) {
  solver_->connect_terminator(effort_.get());
  solver_->set("quiet", 1);
  for (const char* option : {"lucky", "walk"}) solver_->set(option, 0);
}

Solver::~Solver() {
  solver_->disconnect_terminator();
}

void Solver::limit(std::uint64_t steps) {
  effort_->most = effort_->steps + steps;
}

void Solver::prefer(int literal) {
  solver_->phase(literal);
}

bool Solver::exhausted() const {
  return effort_->steps > effort_->most || effort_->over();
}

void Solver::add(std::span<const int> clause) {
  for (const int literal : clause) solver_->add(literal);
  solver_->add(0);
  if (kept_ == nullptr) return;
  kept_->insert(kept_->end(), clause.begin(), clause.end());
  kept_->push_back(0);
}

Solver::Answer Solver::solve(std::span<const int> assumptions, int conflicts) {
  if (exhausted()) return Answer::unknown;
  for (const int literal : assumptions) solver_->assume(literal);
  solver_->limit("conflicts", conflicts);
  return answer_of(solver_->solve());
}

bool Solver::was_needed(int assumption) const {
  return solver_->failed(assumption);
}

bool Solver::holds(int literal) const {
  return solver_->val(literal) > 0;
}

std::optional<Solver::Answer> refute(const std::vector<int>& clauses,
                                     const std::string& proof_file) {
  // Asked by the solver as it works; must outlive it.
  class UntilInterrupted : public CaDiCaL::Terminator {
   public:
    bool terminate() override { return Interruption::asked().has_value(); }
  };
  UntilInterrupted end;
  CaDiCaL::Solver solver;
  solver.set("quiet", 1);
  solver.set("binary", 0);
  if (!solver.trace_proof(proof_file.c_str())) return std::nullopt;
  solver.connect_terminator(&end);
  for (const int literal : clauses) solver.add(literal);
  const Solver::Answer answer = answer_of(solver.solve());
  solver.disconnect_terminator();
  solver.close_proof_trace();
  return answer;
}

}  // namespace orchard::prove
