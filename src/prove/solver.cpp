#include "prove/solver.hpp"

#include <cadical.hpp>

#include <stdexcept>

#include "base/interruption.hpp"

namespace orchard::prove {

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

bool Solver::exhausted() const {
  return effort_->steps > effort_->most || effort_->over();
}

void Solver::add(std::span<const int> clause) {
  for (const int literal : clause) solver_->add(literal);
  solver_->add(0);
}

Solver::Answer Solver::solve(std::span<const int> assumptions, int conflicts) {
  if (exhausted()) return Answer::unknown;
  for (const int literal : assumptions) solver_->assume(literal);
  solver_->limit("conflicts", conflicts);
  switch (solver_->solve()) {
    case 10:
      return Answer::possible;
    case 20:
      return Answer::impossible;
    default:
      return Answer::unknown;
  }
}

bool Solver::was_needed(int assumption) const {
  return solver_->failed(assumption);
}

bool Solver::holds(int literal) const {
  return solver_->val(literal) > 0;
}

}  // namespace orchard::prove
