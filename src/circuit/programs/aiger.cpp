#include "circuit/programs/aiger.hpp"

#include <fmt/core.h>

#include "circuit/lanes/mapping.hpp"

namespace orchard::circuit {

using ground::GroundProgram;

namespace {

// Names of inputs, latches and outputs in the order of their numbers.
struct Names {
  std::vector<std::string> inputs;
  std::vector<std::string> latches;
  std::vector<std::string> outputs;
};

Names names_of(const GroundProgram& program) {
  Names names;
  const auto text = [&](rules::TermId term) { return program.terms().text(term); };
  const auto& roles = program.description().roles();
  for (std::size_t r = 0; r < roles.size(); ++r) {
    for (const auto& move : program.moves()[r]) {
      names.inputs.push_back(fmt::format("(does {} {})", text(roles[r]), text(move.term)));
    }
  }
  for (const auto& fluent : program.fluents()) {
    names.latches.push_back(fmt::format("(true {})", text(fluent.term)));
  }
  names.outputs.emplace_back("terminal");
  const auto of_roles = [&](const char* keyword, const auto& values) {
    for (std::size_t r = 0; r < roles.size(); ++r) {
      for (const auto& value : values[r]) {
        names.outputs.push_back(
            fmt::format("({} {} {})", keyword, text(roles[r]), text(value.term)));
      }
    }
  };
  of_roles("goal", program.goals());
  of_roles("legal", program.moves());
  of_roles("sees", program.percepts());
  return names;
}

}  // namespace

std::string to_aiger(const GroundProgram& program, const GameNetwork& game, const Network& network,
                     const std::vector<NamedSignal>& excluded) {
  std::vector<Signal> outputs{game.terminal};
  for (const auto* signals : {&game.goals, &game.legal, &game.percepts}) {
    for (const auto& of_role : *signals)
      outputs.insert(outputs.end(), of_role.begin(), of_role.end());
  }
  const std::size_t shown = outputs.size();
  outputs.insert(outputs.end(), game.next.begin(), game.next.end());
  const std::size_t first_never = outputs.size();
  for (const NamedSignal& one : excluded) outputs.push_back(one.signal);
  const Network pairs = in_pairs(network, outputs);
  const Names names = names_of(program);
  // The network's inputs are fluents and then moves; the format numbers inputs before latches.
  const auto moves = static_cast<std::uint32_t>(names.inputs.size());
  const auto fluents = static_cast<std::uint32_t>(names.latches.size());
  std::vector<std::uint32_t> variable(pairs.size(), 0);
  for (std::uint32_t i = 0; i < pairs.inputs(); ++i) {
    variable[pairs.input(i)] = i < fluents ? moves + i + 1 : i - fluents + 1;
  }
  std::uint32_t next = moves + fluents + 1;
  for (std::uint32_t node = 0; node < pairs.size(); ++node) {
    if (pairs.is_gate(node)) variable[node] = next++;
  }
  const auto literal = [&](Signal signal) {
    return 2 * variable[signal.node()] + (signal.negated() ? 1 : 0);
  };
  std::string text =
      fmt::format("aag {} {} {} {} {}", next - 1, moves, fluents, shown, pairs.gates());
  text += excluded.empty() ? "\n" : fmt::format(" {}\n", excluded.size());
  for (std::uint32_t i = 0; i < moves; ++i) text += fmt::format("{}\n", 2 * (i + 1));
  for (std::uint32_t f = 0; f < fluents; ++f) {
    text += fmt::format("{} {} {}\n", 2 * (moves + f + 1), literal(outputs[shown + f]),
                        program.fluents()[f].initial ? 1 : 0);
  }
  for (std::size_t o = 0; o < shown; ++o) text += fmt::format("{}\n", literal(outputs[o]));
  for (std::size_t o = first_never; o < outputs.size(); ++o) {
    text += fmt::format("{}\n", literal(outputs[o]));
  }
  for (std::uint32_t node = 0; node < pairs.size(); ++node) {
    if (!pairs.is_gate(node)) continue;
    const std::uint32_t a = literal(pairs.of(node)[0]);
    const std::uint32_t b = literal(pairs.of(node)[1]);
    text += fmt::format("{} {} {}\n", 2 * variable[node], std::max(a, b), std::min(a, b));
  }
  const auto symbols = [&](char kind, const std::vector<std::string>& list) {
    for (std::size_t i = 0; i < list.size(); ++i)
      text += fmt::format("{}{} {}\n", kind, i, list[i]);
  };
  symbols('i', names.inputs);
  symbols('l', names.latches);
  symbols('o', names.outputs);
  std::vector<std::string> bad;
  for (const NamedSignal& one : excluded) bad.push_back(one.name);
  symbols('b', bad);
  return text;
}

}  // namespace orchard::circuit
