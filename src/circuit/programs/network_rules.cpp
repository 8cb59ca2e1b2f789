#include "circuit/programs/network_rules.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard::circuit {
namespace {

class Writer {
 public:
  Writer(const ground::GroundProgram& program, const GameNetwork& game)
      : program_(program), network_(game.network), names_(network_.size()) {
    for (std::size_t f = 0; f < game.fluents.size(); ++f) {
      names_[game.fluents[f].node()] = fmt::format("(true {})", term(program.fluents()[f].term));
    }
    for (std::size_t r = 0; r < game.does.size(); ++r) {
      for (std::size_t m = 0; m < game.does[r].size(); ++m) {
        names_[game.does[r][m].node()] =
            fmt::format("(does {} {})", role(r), term(program.moves()[r][m].term));
      }
    }
  }

  std::string role(std::size_t number) const {
    return term(program_.description().roles()[number]);
  }
  std::string term(rules::TermId id) const { return program_.terms().text(id); }

  // A rule that gives `head` where the signal holds, behind those of the gates it asks for.
  void put(const std::string& head, Signal signal) {
    if (signal == never) return;
    if (signal == always) {
      text_ += head + "\n";
      return;
    }
    add_gates(signal.node());
    text_ += fmt::format("(<= {}{})\n", head, literal(signal));
  }

  std::string text() && { return std::move(text_); }

 private:
  std::string literal(Signal signal) const {
    const std::string& name = names_[signal.node()];
    return signal.negated() ? fmt::format(" (not {})", name) : " " + name;
  }

  void add_gates(std::uint32_t node) {
    std::vector<std::uint32_t> open{node};
    while (!open.empty()) {
      const std::uint32_t here = open.back();
      if (!names_[here].empty()) {
        open.pop_back();
        continue;
      }
      const std::size_t before = open.size();
      for (const Signal operand : network_.of(here)) {
        if (names_[operand.node()].empty()) open.push_back(operand.node());
      }
      if (open.size() > before) continue;
      names_[here] = fmt::format("gate_{}", here);
      text_ += fmt::format("(<= {}", names_[here]);
      for (const Signal operand : network_.of(here)) text_ += literal(operand);
      text_ += ")\n";
      open.pop_back();
    }
  }

  const ground::GroundProgram& program_;
  const Network& network_;
  std::vector<std::string> names_;  // by node; empty: its rule is not written yet
  std::string text_;
};

}  // namespace

std::string to_rules(const ground::GroundProgram& program, const GameNetwork& game) {
  Writer writer(program, game);
  const auto put_of_roles = [&](const char* keyword, const auto& entries, const auto& signals) {
    for (std::size_t r = 0; r < signals.size(); ++r) {
      for (std::size_t i = 0; i < signals[r].size(); ++i) {
        writer.put(
            fmt::format("({} {} {})", keyword, writer.role(r), writer.term(entries[r][i].term)),
            signals[r][i]);
      }
    }
  };
  put_of_roles("legal", program.moves(), game.legal);
  for (std::size_t f = 0; f < game.next.size(); ++f) {
    writer.put(fmt::format("(next {})", writer.term(program.fluents()[f].term)), game.next[f]);
  }
  writer.put("terminal", game.terminal);
  put_of_roles("goal", program.goals(), game.goals);
  put_of_roles("sees", program.percepts(), game.percepts);
  return std::move(writer).text();
}

}  // namespace orchard::circuit
