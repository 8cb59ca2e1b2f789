// Builds an explanation step by step: proofs of what holds, attempts at what does not.
//
// What is still to be taken apart waits in a queue with its depth, so that nothing recurses and
// what is nearest to the question comes first.
#pragma once

#include <deque>

#include "explain/proof_graph.hpp"
#include "orchard/explain.hpp"

namespace orchard::explain {

class Explainer {
 public:
  Explainer(Facts& facts, const ExplainOptions& options)
      : facts_(facts),
        description_(facts.program().description()),
        options_(options),
        steps_(options.most_instances),
        proofs_(facts, options.in_full, steps_) {}

  // The question as the first reason, or below the reasons that `begun` has. False if the steps ran
  // out.
  bool run(const Question& question, Explanation& begun);

 private:
  struct Task {
    std::size_t reason = 0;
    Atom atom;              // ground, or with no_term where a value is missing
    std::size_t depth = 0;  // of attempts around it
  };

  bool take_apart(const Task& task, Explanation& result);
  bool prove(const Task& task, Explanation& result);
  void attempt(const Task& task, Explanation& result);
  std::size_t add_condition(const rules::Literal& literal, const Bindings& bindings,
                            std::uint32_t rule, bool holds, std::size_t depth, bool in_proof,
                            Explanation& result);
  void describe_clause(std::uint32_t clause, const Bindings& bindings, Reason& reason) const;
  Place place_of(const rules::Literal& literal) const {
    return description_.place(literal.atom.node);
  }

  Facts& facts_;
  const rules::Description& description_;
  const ExplainOptions& options_;
  std::size_t steps_;
  ProofGraph proofs_;
  std::deque<Task> tasks_;
  absl::flat_hash_map<Atom, std::size_t> taken_apart_;
};

}  // namespace orchard::explain
