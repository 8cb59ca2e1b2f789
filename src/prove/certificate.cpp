#include "prove/certificate.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <filesystem>
#include <set>
#include <stdexcept>

#include "base/file.hpp"
#include "base/interruption.hpp"
#include "circuit/programs/aiger.hpp"
#include "prove/unrolled_game.hpp"

namespace orchard::prove {

namespace {

constexpr std::size_t most_written = 4'000;  // letters of an invariant as a formula

// Signals of positions as formulas over fluents.
class Formulas {
 public:
  Formulas(const ground::GroundProgram& ground, const circuit::GameNetwork& game,
           const circuit::Network& network)
      : network_(network), names_(network.size()) {
    for (std::size_t f = 0; f < game.fluents.size(); ++f) {
      names_[game.fluents[f].node()] =
          fmt::format("(true {})", ground.terms().text(ground.fluents()[f].term));
    }
  }

  // Empty if it is too long to be read, or depends on moves.
  std::string text(Signal signal) const {
    std::string result;
    return write(signal, result) ? result : std::string();
  }

 private:
  bool write(Signal signal, std::string& text) const {
    if (text.size() > most_written) return false;
    if (!network_.is_gate(signal.node())) {
      const std::string& name = names_[signal.node()];
      if (name.empty()) return false;
      text += signal.negated() ? "(not " + name + ")" : name;
      return true;
    }
    text += signal.negated() ? "(or" : "(and";
    if (!write_parts(signal, text)) return false;
    text += ")";
    return true;
  }
  // Parts that are joined in the same way stand beside one another.
  bool write_parts(Signal signal, std::string& text) const {
    for (const Signal operand : network_.of(signal.node())) {
      const Signal part = signal.negated() ? !operand : operand;
      if (network_.is_gate(part.node()) && part.negated() == signal.negated()) {
        if (!write_parts(part, text)) return false;
      } else {
        text += " ";
        if (!write(part, text)) return false;
      }
    }
    return true;
  }

  const circuit::Network& network_;
  std::vector<std::string> names_;  // by node; empty for what is no fluent
};

class Writer {
 public:
  Writer(const ground::GroundProgram& ground, const circuit::GameNetwork& game,
         const circuit::Network& network, std::string folder)
      : ground_(ground), game_(game), network_(network), folder_(std::move(folder)) {
    for (std::size_t f = 0; f < ground.fluents().size(); ++f) {
      start_.push_back(ground.fluents()[f].initial);
    }
  }

  Result<Certificate> write(const std::vector<Signal>& invariants,
                            const std::vector<CertifiedAnswer>& answers);

 private:
  std::vector<Signal> needed_for(const std::vector<Signal>& invariants,
                                 const std::vector<CertifiedAnswer>& answers,
                                 std::vector<CertifiedAnswer>& certified,
                                 std::vector<std::string>& left_out);
  bool write_start(const std::vector<Signal>& never);
  bool write_step(const std::string& name, const std::string& about,
                  const std::vector<Signal>& never, const std::vector<Signal>& invariants,
                  bool invariants_after);
  bool write_query(const std::string& name, const std::string& about,
                   const std::vector<int>& clauses, int variables);
  bool put(const std::string& name, const std::string& contents) {
    faults_.append(write_whole_file(folder_ + "/" + name, contents));
    return faults_.empty();
  }

  const ground::GroundProgram& ground_;
  const circuit::GameNetwork& game_;
  const circuit::Network& network_;
  std::string folder_;
  std::vector<bool> start_;
  std::vector<std::string> queries_;
  Diagnostics faults_;
};

// The invariants that answers need, those that these need to be kept, and so on.
std::vector<Signal> Writer::needed_for(const std::vector<Signal>& invariants,
                                       const std::vector<CertifiedAnswer>& answers,
                                       std::vector<CertifiedAnswer>& certified,
                                       std::vector<std::string>& left_out) {
  constexpr int no_limit = 1 << 30;
  Solver solver;
  UnrolledGame unrolled(solver, game_, network_);
  unrolled.add_ply();
  std::vector<int> before;
  std::vector<int> after;
  for (const Signal invariant : invariants) {
    before.push_back(-unrolled.literal(0, invariant));
    after.push_back(-unrolled.literal(1, invariant));
  }
  std::set<std::size_t> needed;
  std::vector<std::size_t> open;
  // Whether it is excluded after a ply; adds what that needs.
  const auto follows = [&](Signal never, bool with_after) {
    std::vector<int> assumed = before;
    if (with_after) assumed.insert(assumed.end(), after.begin(), after.end());
    assumed.push_back(unrolled.literal(1, never));
    if (solver.solve(assumed, no_limit) != Solver::Answer::impossible) return false;
    for (std::size_t i = 0; i < invariants.size(); ++i) {
      const bool used = solver.was_needed(before[i]) || (with_after && solver.was_needed(after[i]));
      if (used && needed.insert(i).second) open.push_back(i);
    }
    return true;
  };
  for (const CertifiedAnswer& answer : answers) {
    if (std::ranges::all_of(answer.never, [&](Signal never) { return follows(never, true); })) {
      certified.push_back(answer);
    } else {
      left_out.push_back(answer.id);
    }
  }
  while (!open.empty()) {
    const std::size_t invariant = open.back();
    open.pop_back();
    if (!follows(invariants[invariant], false)) end_if_interrupted();
  }
  std::vector<Signal> result;
  for (const std::size_t i : needed) result.push_back(invariants[i]);
  return result;
}

bool Writer::write_query(const std::string& name, const std::string& about,
                         const std::vector<int>& clauses, int variables) {
  const auto answer = refute(clauses, folder_ + "/" + name + ".drat");
  if (!answer) {
    faults_.add(plain_error("cannot-write", folder_ + "/" + name + ".drat could not be written",
                            "give a folder that can be written"));
    return false;
  }
  end_if_interrupted();
  if (*answer != Solver::Answer::impossible) {
    throw std::logic_error("a proof by induction does not hold: " + about);
  }
  std::string text = fmt::format("c {}\n", about);
  for (std::size_t f = 0; f < game_.fluents.size(); ++f) {
    text += fmt::format("c before the ply {}: {}\n", f + 2,
                        ground_.terms().text(ground_.fluents()[f].term));
  }
  text += fmt::format("p cnf {} {}\n", variables, std::ranges::count(clauses, 0));
  for (const int literal : clauses) text += fmt::format("{}{}", literal, literal == 0 ? "\n" : " ");
  queries_.push_back(name);
  return put(name + ".cnf", text);
}

bool Writer::write_start(const std::vector<Signal>& never) {
  std::vector<int> clauses;
  Solver solver;
  solver.keep_clauses(&clauses);
  UnrolledGame unrolled(solver, game_, network_);
  for (std::size_t f = 0; f < start_.size(); ++f) {
    const int fluent = unrolled.literal(0, game_.fluents[f]);
    solver.add({start_[f] ? fluent : -fluent});
  }
  std::vector<int> any;
  for (const Signal signal : never) any.push_back(unrolled.literal(0, signal));
  solver.add(any);
  return write_query("start", "the start, and something holds there that should never hold",
                     clauses, solver.variables());
}

bool Writer::write_step(const std::string& name, const std::string& about,
                        const std::vector<Signal>& never, const std::vector<Signal>& invariants,
                        bool invariants_after) {
  std::vector<int> clauses;
  Solver solver;
  solver.keep_clauses(&clauses);
  UnrolledGame unrolled(solver, game_, network_);
  unrolled.add_ply();
  for (const Signal invariant : invariants) {
    solver.add({-unrolled.literal(0, invariant)});
    if (invariants_after) solver.add({-unrolled.literal(1, invariant)});
  }
  std::vector<int> any;
  for (const Signal signal : never) any.push_back(unrolled.literal(1, signal));
  solver.add(any);
  return write_query(name, about, clauses, solver.variables());
}

Result<Certificate> Writer::write(const std::vector<Signal>& invariants,
                                  const std::vector<CertifiedAnswer>& answers) {
  namespace fs = std::filesystem;
  std::error_code error;
  fs::create_directories(folder_, error);
  if (error) {
    return plain_error("cannot-write", fmt::format("{}: {}", folder_, error.message()),
                       "give a folder that can be written");
  }
  for (const auto& file : fs::directory_iterator(folder_, error)) {
    const auto kind = file.path().extension();
    if (kind == ".cnf" || kind == ".drat") fs::remove(file.path(), error);
  }
  Certificate result;
  std::vector<CertifiedAnswer> certified;
  const std::vector<Signal> needed = needed_for(invariants, answers, certified, result.left_out);
  end_if_interrupted();
  const std::set<Signal> kept(needed.begin(), needed.end());
  std::vector<Signal> all = needed;
  for (const CertifiedAnswer& answer : certified) {
    all.insert(all.end(), answer.never.begin(), answer.never.end());
  }
  if (all.empty() && certified.empty()) return result;
  if (!all.empty() && !write_start(all)) return faults_;
  constexpr std::size_t at_once = 16;
  for (std::size_t first = 0; first < needed.size(); first += at_once) {
    const std::size_t end = std::min(first + at_once, needed.size());
    const std::vector<Signal> some(needed.begin() + static_cast<std::ptrdiff_t>(first),
                                   needed.begin() + static_cast<std::ptrdiff_t>(end));
    const auto about =
        fmt::format("no invariant is broken, a legal joint move is made, and one of {} to {} is",
                    first + 1, end);
    if (!write_step(fmt::format("step_{:03}", first / at_once + 1), about, some, needed, false)) {
      return faults_;
    }
  }
  std::string index;
  for (std::size_t a = 0; a < certified.size(); ++a) {
    std::vector<Signal> beside;
    for (const Signal never : certified[a].never) {
      if (!kept.contains(never)) beside.push_back(never);
    }
    const std::string name = fmt::format("answer_{:03}", a + 1);
    index += fmt::format("{}: {}\n", certified[a].id,
                         certified[a].never.empty() ? "the network has nothing that it excludes"
                         : beside.empty()           ? "what it excludes are invariants themselves"
                                                    : name);
    if (beside.empty()) continue;
    const auto about = fmt::format(
        "no invariant is broken before a legal joint move or after it, and then something shows "
        "that \"{}\" excludes",
        certified[a].id);
    if (!write_step(name, about, beside, needed, true)) return faults_;
  }
  const Formulas formulas(ground_, game_, network_);
  std::string claims =
      "; What never holds in a position that can be reached: at the start it does not, and every\n"
      "; legal joint move keeps it so (see the files step_N).\n";
  std::vector<circuit::NamedSignal> outputs;
  for (std::size_t i = 0; i < needed.size(); ++i) {
    const std::string text = formulas.text(needed[i]);
    outputs.push_back({fmt::format("invariant {} is broken", i + 1), needed[i]});
    claims += text.empty()
                  ? fmt::format("; invariant {}: too long to be read; network.aag has it\n", i + 1)
                  : fmt::format("(claim \"invariant {}\"\n  (never {}))\n", i + 1, text);
  }
  for (const CertifiedAnswer& answer : certified) {
    for (const Signal never : answer.never) {
      if (!kept.contains(never)) outputs.push_back({"excluded by " + answer.id, never});
    }
  }
  put("invariants.claims", claims);
  put("network.aag", circuit::to_aiger(ground_, game_, network_, outputs));
  put("answers.txt", index);
  std::string list;
  for (const std::string& query : queries_) list += query + "\n";
  put("queries.txt", list);
  if (!faults_.empty()) return faults_;
  result.answers = certified.size();
  result.invariants = needed.size();
  result.queries = queries_.size();
  return result;
}

}  // namespace

Result<Certificate> write_certificate(const ground::GroundProgram& ground,
                                      const circuit::GameNetwork& game,
                                      const circuit::Network& network,
                                      const std::vector<Signal>& invariants,
                                      const std::vector<CertifiedAnswer>& answers,
                                      const std::string& folder) {
  return Writer(ground, game, network, folder).write(invariants, answers);
}

}  // namespace orchard::prove
