#include "circuit/lanes/mapping.hpp"

#include <algorithm>
#include <array>
#include <cassert>

#include "base/interruption.hpp"
#include "circuit/lanes/equivalence.hpp"

namespace orchard::circuit {

namespace {

// A function of up to three nodes that a node is; leaves ascending, unused ones stand last.
struct Cut {
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  std::array<std::uint32_t, 3> leaves{none, none, none};
  float flow = 0;
  std::uint8_t size = 0;
  std::uint8_t table = 0;  // over the leaves, as in LaneOperation
};

// Tables of functions of one to three leaves, over three: by the set of places that their leaves
// have among the three, 4 for the first one, and by table. Cuts are merged a hundred times a node.
class WidenedTables {
 public:
  WidenedTables() {
    for (unsigned places = 0; places < 8; ++places) {
      for (unsigned table = 0; table < 256; ++table) tables_[places][table] = of(places, table);
    }
  }
  std::uint8_t operator()(unsigned places, std::uint8_t table) const {
    return tables_[places][table];
  }

 private:
  static std::uint8_t of(unsigned places, unsigned table) {
    unsigned result = 0;
    for (unsigned bits = 0; bits < 8; ++bits) {
      unsigned index = 0;
      unsigned leaf = 4;
      for (unsigned place = 4; place > 0; place /= 2) {
        if ((places & place) == 0) continue;
        if ((bits & place) != 0) index |= leaf;
        leaf /= 2;
      }
      result |= (table >> index & 1) << bits;
    }
    return static_cast<std::uint8_t>(result);
  }

  std::array<std::array<std::uint8_t, 256>, 8> tables_{};
};

class Mapper {
 public:
  Mapper(const Network& network, std::span<const Signal> outputs)
      : network_(network), outputs_(outputs) {}

  LaneProgram run() {
    find_cuts();
    choose_by_flow();
    // Rounds after the first one save less than a thousandth: in large networks not their time.
    constexpr std::uint32_t large = 100'000;
    const int rounds = network_.size() > large ? 1 : 3;
    for (int round = 0; round < rounds; ++round) recover_area();
    choose_polarity();
    order();
    write();
    return std::move(program_);
  }

 private:
  // Kept for a node. More than four gave not one operation less in the demo games.
  static constexpr std::size_t most_cuts = 5;

  void find_cuts();
  void merge(const Cut& a, const Cut& b, bool not_a, bool not_b);
  std::span<const Cut> cuts_of(std::uint32_t node) const {
    return std::span(cuts_).subspan(first_cut_[node], first_cut_[node + 1] - first_cut_[node]);
  }
  void choose_by_flow();
  void recover_area();
  int reference(const Cut& cut);
  int dereference(const Cut& cut);
  void choose_polarity();
  void order();
  void write();
  const Cut& chosen(std::uint32_t node) const { return cuts_[first_cut_[node] + chosen_[node]]; }

  const WidenedTables widened_;
  const Network& network_;
  std::span<const Signal> outputs_;
  std::vector<Cut> cuts_;  // node after node; of a gate, the trivial one is the last
  std::vector<std::uint64_t> first_cut_;
  std::vector<Cut> merged_;  // of the node at hand
  std::vector<std::uint8_t> chosen_;
  std::vector<float> flow_;
  std::vector<int> references_;
  std::vector<bool> negated_;  // the value kept is the contrary of the node
  std::vector<std::uint32_t> order_;
  std::vector<std::uint32_t> open_;  // of a walk over functions
  LaneProgram program_;
  InterruptionPoint interruption_{64};
};

// The conjunction over the leaves of both, if they are three at most and none that was merged has
// them.
void Mapper::merge(const Cut& a, const Cut& b, bool not_a, bool not_b) {
  Cut result;
  std::size_t i = 0;
  std::size_t j = 0;
  unsigned places_a = 0;
  unsigned places_b = 0;
  while (i < a.size || j < b.size) {
    if (result.size == 3) return;
    const std::uint32_t left = i < a.size ? a.leaves[i] : Cut::none;
    const std::uint32_t right = j < b.size ? b.leaves[j] : Cut::none;
    const std::uint32_t least = std::min(left, right);
    const unsigned place = 4u >> result.size;
    result.leaves[result.size++] = least;
    if (left == least) {
      places_a |= place;
      ++i;
    }
    if (right == least) {
      places_b |= place;
      ++j;
    }
  }
  for (const Cut& other : merged_) {
    if (other.leaves == result.leaves) return;
  }
  const unsigned of_a = widened_(places_a, a.table) ^ (not_a ? 0xFFu : 0u);
  const unsigned of_b = widened_(places_b, b.table) ^ (not_b ? 0xFFu : 0u);
  result.table = static_cast<std::uint8_t>(of_a & of_b);
  for (std::size_t k = 0; k < result.size; ++k) result.flow += flow_[result.leaves[k]];
  merged_.push_back(result);
}

void Mapper::find_cuts() {
  const std::uint32_t size = network_.size();
  first_cut_.reserve(std::size_t{size} + 1);
  first_cut_.push_back(0);
  chosen_.assign(size, 0);
  flow_.assign(size, 0);
  references_.assign(size, 0);
  for (std::uint32_t node = 0; node < size; ++node) {
    for (const Signal signal : network_.of(node)) ++references_[signal.node()];
  }
  for (const Signal output : outputs_) ++references_[output.node()];
  for (std::uint32_t node = 0; node < size; ++node) {
    Cut trivial;
    trivial.leaves[0] = node;
    trivial.size = 1;
    trivial.table = 0xF0;  // its first operand
    if (network_.is_gate(node)) {
      interruption_.pass();
      merged_.clear();
      const Signal a = network_.of(node)[0];
      const Signal b = network_.of(node)[1];
      for (const Cut& of_a : cuts_of(a.node())) {
        for (const Cut& of_b : cuts_of(b.node())) merge(of_a, of_b, a.negated(), b.negated());
      }
      const auto kept = static_cast<std::ptrdiff_t>(std::min(merged_.size(), most_cuts));
      std::ranges::partial_sort(merged_, merged_.begin() + kept, [](const Cut& x, const Cut& y) {
        return std::tie(x.flow, x.size, x.leaves) < std::tie(y.flow, y.size, y.leaves);
      });
      cuts_.insert(cuts_.end(), merged_.begin(), merged_.begin() + kept);
      flow_[node] = (1 + merged_.front().flow) / static_cast<float>(std::max(1, references_[node]));
      trivial.flow = flow_[node];
    }
    cuts_.push_back(trivial);
    first_cut_.push_back(cuts_.size());
  }
}

void Mapper::choose_by_flow() {
  std::ranges::fill(references_, 0);
  for (const Signal output : outputs_) {
    if (references_[output.node()]++ == 0 && network_.is_gate(output.node())) {
      reference(chosen(output.node()));
    }
  }
}

// Counts a use of a cut's leaves; gives the number of functions that it brings in. Depth-first with
// a stack: networks may be deep.
int Mapper::reference(const Cut& cut) {
  int area = 1;
  open_.assign(cut.leaves.begin(), cut.leaves.begin() + cut.size);
  while (!open_.empty()) {
    const std::uint32_t node = open_.back();
    open_.pop_back();
    if (references_[node]++ > 0 || !network_.is_gate(node)) continue;
    ++area;
    const Cut& inner = chosen(node);
    open_.insert(open_.end(), inner.leaves.begin(), inner.leaves.begin() + inner.size);
  }
  return area;
}

int Mapper::dereference(const Cut& cut) {
  int area = 1;
  open_.assign(cut.leaves.begin(), cut.leaves.begin() + cut.size);
  while (!open_.empty()) {
    const std::uint32_t node = open_.back();
    open_.pop_back();
    if (--references_[node] > 0 || !network_.is_gate(node)) continue;
    ++area;
    const Cut& inner = chosen(node);
    open_.insert(open_.end(), inner.leaves.begin(), inner.leaves.begin() + inner.size);
  }
  return area;
}

// Each function that is used: the cut that brings in the fewest others.
void Mapper::recover_area() {
  for (std::uint32_t node = 0; node < network_.size(); ++node) {
    if (references_[node] == 0 || !network_.is_gate(node)) continue;
    interruption_.pass();
    dereference(chosen(node));
    std::uint8_t best = chosen_[node];
    int least = 1 << 30;
    const std::span<const Cut> cuts = cuts_of(node);
    for (std::uint8_t c = 0; c + 1u < cuts.size(); ++c) {
      const int area = reference(cuts[c]);
      dereference(cuts[c]);
      if (area < least) {
        least = area;
        best = c;
      }
    }
    chosen_[node] = best;
    reference(chosen(node));
  }
}

// A function that is put out only negated is made negated.
void Mapper::choose_polarity() {
  std::vector<bool> plain(network_.size(), false);
  negated_.assign(network_.size(), false);
  for (const Signal output : outputs_) {
    (output.negated() ? negated_ : plain)[output.node()] = true;
  }
  for (std::uint32_t node = 0; node < network_.size(); ++node) {
    negated_[node] = negated_[node] && !plain[node] && network_.is_gate(node);
  }
}

// Depth-first from the outputs in their order, so that what one output needs is made together.
void Mapper::order() {
  std::vector<bool> done(network_.size(), false);
  struct Visit {
    std::uint32_t node;
    std::size_t next = 0;
  };
  std::vector<Visit> open;
  for (const Signal output : outputs_) {
    open.push_back({output.node(), 0});
    while (!open.empty()) {
      Visit& visit = open.back();
      if (done[visit.node] || !network_.is_gate(visit.node)) {
        open.pop_back();
        continue;
      }
      const Cut& cut = chosen(visit.node);
      if (visit.next < cut.size) {
        const std::uint32_t leaf = cut.leaves[visit.next++];
        open.push_back({leaf, 0});
        continue;
      }
      done[visit.node] = true;
      order_.push_back(visit.node);
      open.pop_back();
    }
  }
}

void Mapper::write() {
  program_.inputs = network_.inputs();
  program_.state_inputs = program_.inputs;
  constexpr std::uint32_t none = 0xFFFFFFFF;
  std::vector<std::uint32_t> value(network_.size(), none);
  for (std::uint32_t i = 0; i < network_.inputs(); ++i) value[network_.input(i)] = i;
  const auto add = [&](const LaneOperation& operation) {
    program_.operations.push_back(operation);
    return program_.inputs + static_cast<std::uint32_t>(program_.operations.size()) - 1;
  };
  for (const std::uint32_t node : order_) {
    const Cut& cut = chosen(node);
    LaneOperation operation;
    std::uint8_t table = 0;
    for (int bits = 0; bits < 8; ++bits) {  // leaves that are kept negated are read so
      int index = bits;
      for (std::size_t i = 0; i < cut.size; ++i) {
        if (negated_[cut.leaves[i]]) index ^= 4 >> i;
      }
      if ((cut.table >> index & 1) != 0) table = static_cast<std::uint8_t>(table | 1u << bits);
    }
    operation.table = negated_[node] ? static_cast<std::uint8_t>(~table) : table;
    operation.a = value[cut.leaves[0]];
    operation.b = cut.size > 1 ? value[cut.leaves[1]] : operation.a;
    operation.c = cut.size > 2 ? value[cut.leaves[2]] : operation.a;
    value[node] = add(operation);
  }
  // Outputs that need the contrary of what is kept, or a constant, get an operation of their own.
  for (const Signal output : outputs_) {
    const std::uint32_t node = output.node();
    if (node == 0) {
      program_.outputs.push_back(
          add({0, 0, 0, static_cast<std::uint8_t>(output.negated() ? 0xFF : 0x00)}));
    } else if (output.negated() != negated_[node]) {
      program_.outputs.push_back(add({value[node], value[node], value[node], 0x0F}));
    } else {
      program_.outputs.push_back(value[node]);
    }
  }
}

}  // namespace

LaneProgram map_to_lanes(const Network& network, std::span<const Signal> outputs) {
  LaneProgram program = Mapper(network, outputs).run();
  assert(same_on_random_inputs(network, outputs, program));
  return program;
}

}  // namespace orchard::circuit
