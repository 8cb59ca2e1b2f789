// A SAT solver, as little of it as proofs about rules need.
//
// Variables are numbered from 1; a literal is a variable or, negated, its negative. Clauses stay;
// assumptions hold for one call. One thread.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace CaDiCaL {
class Solver;
}

namespace orchard::prove {

class Solver {
 public:
  Solver();
  ~Solver();
  Solver(const Solver&) = delete;
  Solver& operator=(const Solver&) = delete;

  int new_variable() { return ++variables_; }
  void add(std::span<const int> clause);
  void add(std::initializer_list<int> clause) { add(std::span(clause.begin(), clause.size())); }

  // Keeps a copy of all clauses from now on, each ended by 0.
  void keep_clauses(std::vector<int>* clauses) { kept_ = clauses; }
  int variables() const { return variables_; }
  // Where nothing speaks against it the literal is to hold in what is found.
  void prefer(int literal);

  // No call goes on beyond so many steps of all calls together (a step is some ten decisions of the
  // solver, so the limit is met at the same place every time), nor beyond an interruption.
  void limit(std::uint64_t steps);
  bool exhausted() const;

  enum class Answer { possible, impossible, unknown };
  // Whether the clauses and the assumptions can hold together; unknown after `conflicts` wrong
  // turns. The same calls in the same order give the same answers.
  Answer solve(std::span<const int> assumptions, int conflicts);
  // After `impossible`: whether an assumption was needed for that.
  bool was_needed(int assumption) const;
  // After `possible`: whether a literal holds in what was found.
  bool holds(int literal) const;

 private:
  class Effort;

  std::unique_ptr<Effort> effort_;
  std::unique_ptr<CaDiCaL::Solver> solver_;
  int variables_ = 0;
  std::vector<int>* kept_ = nullptr;
};

// Looks for a proof that clauses, each ended by 0, cannot hold together, and writes it to a file in
// the DRAT format, as text. Nothing if the file cannot be written; `unknown` if the budget around
// ends first.
std::optional<Solver::Answer> refute(const std::vector<int>& clauses,
                                     const std::string& proof_file);

}  // namespace orchard::prove
