#include "prove/unrolled_game.hpp"

#include <algorithm>
#include <stdexcept>

namespace orchard::prove {

UnrolledGame::UnrolledGame(Solver& solver, const circuit::GameNetwork& game,
                           const circuit::Network& network)
    : solver_(solver), game_(game), network_(network), truth_(solver.new_variable()) {
  solver_.add({truth_});
  std::vector<int> fluents;
  for (std::size_t f = 0; f < game_.fluents.size(); ++f) fluents.push_back(solver_.new_variable());
  bind_inputs(plies_.emplace_back(), fluents);
}

void UnrolledGame::bind_inputs(Literals& literals, const std::vector<int>& fluents) {
  literals.assign(network_.size(), 0);
  literals[0] = -truth_;
  for (std::size_t f = 0; f < fluents.size(); ++f) {
    literals[game_.fluents[f].node()] = fluents[f];
  }
}

void UnrolledGame::add_ply() {
  const std::size_t now = plies_.size() - 1;
  solver_.add({-literal(now, game_.terminal)});
  for (std::size_t role = 0; role < game_.does.size(); ++role) {
    std::vector<int> does;
    for (std::size_t m = 0; m < game_.does[role].size(); ++m) {
      does.push_back(solver_.new_variable());
      plies_[now][game_.does[role][m].node()] = does.back();
      solver_.add({-does.back(), literal(now, game_.legal[role][m])});
    }
    make_one_move(does);
  }
  std::vector<int> fluents;
  for (const Signal next : game_.next) fluents.push_back(literal(now, next));
  bind_inputs(plies_.emplace_back(), fluents);
}

// Exactly one: a chain of "one so far".
void UnrolledGame::make_one_move(const std::vector<int>& does) {
  solver_.add(does);
  int before = -truth_;
  for (const int move : does) {
    solver_.add({-before, -move});
    const int so_far = solver_.new_variable();
    solver_.add({-before, so_far});
    solver_.add({-move, so_far});
    before = so_far;
  }
}

int UnrolledGame::literal(std::size_t ply, Signal signal) {
  Literals& literals = plies_[ply];
  literals.resize(network_.size(), 0);  // gates may have been added
  std::vector<std::uint32_t> open{signal.node()};
  std::vector<int> clause;
  while (!open.empty()) {
    const std::uint32_t node = open.back();
    if (literals[node] != 0) {
      open.pop_back();
      continue;
    }
    if (!network_.is_gate(node)) throw std::logic_error("no step follows from this ply");
    bool ready = true;
    for (const Signal operand : network_.of(node)) {
      if (literals[operand.node()] != 0) continue;
      ready = false;
      open.push_back(operand.node());
    }
    if (!ready) continue;
    const int gate = solver_.new_variable();
    clause.assign(1, gate);
    for (const Signal operand : network_.of(node)) {
      const int of_operand =
          operand.negated() ? -literals[operand.node()] : literals[operand.node()];
      solver_.add({-gate, of_operand});
      clause.push_back(-of_operand);
    }
    solver_.add(clause);
    literals[node] = gate;
    open.pop_back();
  }
  return signal.negated() ? -literals[signal.node()] : literals[signal.node()];
}

int UnrolledGame::any_of(std::span<const int> literals) {
  const int any = solver_.new_variable();
  std::vector<int> clause(literals.begin(), literals.end());
  clause.push_back(-any);
  solver_.add(clause);
  for (const int literal : literals) solver_.add({-literal, any});
  return any;
}

std::vector<bool> UnrolledGame::found_position(std::size_t ply) {
  std::vector<bool> result;
  for (const Signal fluent : game_.fluents) {
    result.push_back(solver_.holds(literal(ply, fluent)));
  }
  return result;
}

std::vector<std::uint32_t> UnrolledGame::found_joint(std::size_t ply) {
  std::vector<std::uint32_t> result;
  for (const auto& does : game_.does) {
    const auto made =
        std::ranges::find_if(does, [&](Signal move) { return solver_.holds(literal(ply, move)); });
    result.push_back(static_cast<std::uint32_t>(made - does.begin()));
  }
  return result;
}

}  // namespace orchard::prove
