#include "explore/keys/code_joiner.hpp"

#include <absl/container/flat_hash_set.h>

#include <bit>
#include <cmath>
#include <map>

#include "game/lane_evaluator.hpp"

namespace orchard::explore {

namespace {

constexpr std::size_t most_groups = 160;
constexpr std::size_t most_patterns = 256;   // of a joined group, as far as games show
constexpr std::size_t most_closed = 1024;    // … and as far as mixed positions do
constexpr std::size_t rows_compared = 4096;  // when pairs of groups are
constexpr double least_saving = 0.1;         // bits
constexpr double strong_saving = 0.4;        // … of what hangs together whatever changes it

// By fluent, which moves what becomes of it depends on. O(fluents · gates).
std::vector<std::vector<bool>> moves_that_change(const circuit::GameNetwork& game) {
  std::vector<std::int64_t> move_of(game.network.size(), -1);
  std::int64_t moves = 0;
  for (const auto& of_role : game.does) {
    for (const circuit::Signal move : of_role) move_of[move.node()] = moves++;
  }
  std::vector<std::vector<bool>> result;
  std::vector<std::size_t> reached_for(game.network.size(), 0);
  std::vector<std::uint32_t> open;
  for (const circuit::Signal next : game.next) {
    std::vector<bool>& changed_by = result.emplace_back(moves, false);
    const std::size_t mark = result.size();
    open.assign({next.node()});
    while (!open.empty()) {
      const std::uint32_t node = open.back();
      open.pop_back();
      if (std::exchange(reached_for[node], mark) == mark) continue;
      if (move_of[node] >= 0) changed_by[static_cast<std::size_t>(move_of[node])] = true;
      for (const circuit::Signal of : game.network.of(node)) open.push_back(of.node());
    }
  }
  return result;
}

std::uint32_t whole_bits(std::size_t patterns) {
  return static_cast<std::uint32_t>(std::bit_width(patterns - 1));
}

}  // namespace

struct CodeJoiner::Joining {
  // Numbers of patterns of parts, one a part.
  using Numbers = std::vector<std::uint16_t>;
  struct Group {
    std::vector<std::size_t> parts;     // groups of the code begun with
    std::vector<std::uint16_t> of_row;  // a number for what each of the compared rows holds
    std::size_t patterns = 0;           // as far as the compared rows tell
    std::vector<bool> changed_by;
    std::vector<Numbers> known;  // what can occur
    absl::flat_hash_set<Numbers> known_set;

    bool add(const Numbers& numbers) {
      if (!known_set.insert(numbers).second) return false;
      known.push_back(numbers);
      return true;
    }
  };

  Joining(const CodeJoiner& joiner, const PositionCode& code) : of(joiner), apart(code) {}

  bool is_clock(const PositionCode::Group& group, const Measure& measure);
  void read_rows();
  std::size_t together(const Group& a, const Group& b, std::size_t& once);
  std::size_t patterns_together(const Group& a, const Group& b);
  double saving(const Group& a, const Group& b);
  double saving_of_same_moves(const Group& a, const Group& b) {
    return a.changed_by == b.changed_by ? saving(a, b) : 0;
  }
  double saving_of_strong(const Group& a, const Group& b);
  double whole_saving(const Group& a, const Group& b);
  Group join(const Group& a, const Group& b) const;
  template <class Saving>
  void join_best(Saving&& saving);
  void join_strong();
  double bits() const;
  void pack();
  std::optional<Numbers> numbers(const Group& group, std::span<const std::uint64_t> row) const;
  void add_known();
  void close();
  bool mix_and_step(Random& random);
  PositionCode code() const;

  const CodeJoiner& of;
  const PositionCode& apart;
  PositionCode::Clock clock;
  std::vector<std::size_t> compared;  // rows
  std::vector<Group> groups;
  std::vector<std::uint16_t> seen;  // by pair of numbers, all zero between calls
};

void CodeJoiner::observe(std::span<const std::uint64_t> row, std::uint64_t ply) {
  words_ = row.size();
  rows_.insert(rows_.end(), row.begin(), row.end());
  plies_.push_back(ply);
}

// Whether what holds of a group follows from the ply in everything that was shown; then it is put
// into the clock.
bool CodeJoiner::Joining::is_clock(const PositionCode::Group& group, const Measure& measure) {
  for (const std::uint32_t fluent : group.fluents) {
    if (std::ranges::find(measure.fluents, fluent) != measure.fluents.end()) return false;
  }
  std::map<std::uint64_t, std::uint64_t> number_at;
  for (std::size_t r = 0; r < of.rows(); ++r) {
    const auto number = group.number(of.row(r));
    if (!number || number_at.try_emplace(of.plies_[r], *number).first->second != *number) {
      return false;
    }
  }
  const std::size_t first = clock.fluents.size();
  clock.fluents.insert(clock.fluents.end(), group.fluents.begin(), group.fluents.end());
  for (const auto& [ply, number] : number_at) {
    if (clock.at.size() <= ply) clock.at.resize(ply + 1);
    for (const std::uint16_t place : group.patterns[number]) {
      clock.at[ply].push_back(static_cast<std::uint16_t>(first + place));
    }
  }
  return true;
}

void CodeJoiner::Joining::read_rows() {
  // As many of each ply, if there are so many: late positions are rare, and tell most.
  std::map<std::uint64_t, std::size_t> taken;
  for (const std::uint64_t ply : of.plies_) taken.try_emplace(ply, 0);
  const std::size_t of_each = std::max<std::size_t>(rows_compared / taken.size(), 1);
  for (std::size_t r = of.rows(); r-- > 0;) {
    if (taken[of.plies_[r]]++ < of_each) compared.push_back(r);
  }
  const auto changing = moves_that_change(of.game_.network());
  for (Group& group : groups) {
    const PositionCode::Group& part = apart.groups[group.parts.front()];
    group.patterns = part.patterns.size();
    for (const std::size_t r : compared) {
      group.of_row.push_back(static_cast<std::uint16_t>(part.number(of.row(r)).value_or(0)));
    }
    for (std::size_t move = 0; move < changing.front().size(); ++move) {
      group.changed_by.push_back(std::ranges::any_of(
          part.fluents, [&](std::uint32_t fluent) { return bool(changing[fluent][move]); }));
    }
  }
}

// How many pairs of numbers the compared rows have, and how many of them once only.
std::size_t CodeJoiner::Joining::together(const Group& a, const Group& b, std::size_t& once) {
  seen.resize(std::max(seen.size(), a.patterns * b.patterns), 0);
  std::size_t result = 0;
  once = 0;
  const auto pair = [&](std::size_t i) { return a.of_row[i] * b.patterns + b.of_row[i]; };
  for (std::size_t i = 0; i < compared.size(); ++i) {
    std::uint16_t& count = seen[pair(i)];
    if (count == 0) ++result;
    if (count == 0) ++once;
    if (count == 1) --once;
    count = static_cast<std::uint16_t>(std::min(count + 1, 2));
  }
  for (std::size_t i = 0; i < compared.size(); ++i) seen[pair(i)] = 0;
  return result;
}

// How many patterns a pair of groups has: as far as the compared rows tell, where what was seen
// once stands for as much that was not seen; none if they are too many.
std::size_t CodeJoiner::Joining::patterns_together(const Group& a, const Group& b) {
  const std::size_t all = a.patterns * b.patterns;
  if (all > most_patterns * most_patterns) return 0;
  std::size_t once = 0;
  const std::size_t pairs = together(a, b, once);
  const std::size_t result = std::min(pairs + once, all);
  return result > most_patterns ? 0 : result;
}

// How many bits a pair saves.
double CodeJoiner::Joining::saving(const Group& a, const Group& b) {
  const std::size_t pairs = patterns_together(a, b);
  if (pairs == 0) return 0;
  const auto all = static_cast<double>(a.patterns * b.patterns);
  const double saved = std::log2(all / static_cast<double>(pairs));
  return saved < least_saving ? 0 : saved;
}

// How many whole bits any pair saves; the fewer moves change one of them alone, the better.
double CodeJoiner::Joining::whole_saving(const Group& a, const Group& b) {
  const std::size_t pairs = patterns_together(a, b);
  if (pairs == 0) return 0;
  const std::uint32_t apart_bits = whole_bits(a.patterns) + whole_bits(b.patterns);
  const std::uint32_t bits = whole_bits(pairs);
  if (bits >= apart_bits) return 0;
  double both = 0;
  double either = 1;
  for (std::size_t m = 0; m < a.changed_by.size(); ++m) {
    both += a.changed_by[m] && b.changed_by[m] ? 1 : 0;
    either += a.changed_by[m] || b.changed_by[m] ? 1 : 0;
  }
  return apart_bits - bits + both / either;
}

CodeJoiner::Joining::Group CodeJoiner::Joining::join(const Group& a, const Group& b) const {
  Group result;
  result.parts = a.parts;
  result.parts.insert(result.parts.end(), b.parts.begin(), b.parts.end());
  absl::flat_hash_map<std::uint32_t, std::uint16_t> numbers;
  for (std::size_t i = 0; i < compared.size(); ++i) {
    const std::uint32_t pair = std::uint32_t{a.of_row[i]} << 16 | b.of_row[i];
    result.of_row.push_back(
        numbers.try_emplace(pair, static_cast<std::uint16_t>(numbers.size())).first->second);
  }
  result.patterns = numbers.size();
  for (std::size_t j = 0; j < a.changed_by.size(); ++j) {
    result.changed_by.push_back(a.changed_by[j] || b.changed_by[j]);
  }
  return result;
}

// Joins the pair with the greatest saving, again and again. O(groups² · rows compared).
template <class Saving>
void CodeJoiner::Joining::join_best(Saving&& saving) {
  std::vector<std::vector<double>> saved(groups.size(), std::vector<double>(groups.size(), 0));
  const auto compare = [&](std::size_t a) {
    for (std::size_t b = 0; b < groups.size(); ++b) {
      if (a != b) saved[std::min(a, b)][std::max(a, b)] = saving(groups[a], groups[b]);
    }
  };
  for (std::size_t a = 0; a < groups.size(); ++a) {
    for (std::size_t b = a + 1; b < groups.size(); ++b) saved[a][b] = saving(groups[a], groups[b]);
  }
  while (true) {
    double best = 0;
    std::size_t first = 0;
    std::size_t second = 0;
    for (std::size_t a = 0; a < groups.size(); ++a) {
      for (std::size_t b = a + 1; b < groups.size(); ++b) {
        if (saved[a][b] <= best) continue;
        best = saved[a][b];
        first = a;
        second = b;
      }
    }
    if (best <= 0) return;
    groups[first] = join(groups[first], groups[second]);
    groups.erase(groups.begin() + static_cast<std::ptrdiff_t>(second));
    saved.erase(saved.begin() + static_cast<std::ptrdiff_t>(second));
    for (auto& row : saved) row.erase(row.begin() + static_cast<std::ptrdiff_t>(second));
    compare(first);
  }
}

// The same of a pair that saves much, and of which games show nearly all that occurs.
double CodeJoiner::Joining::saving_of_strong(const Group& a, const Group& b) {
  constexpr std::size_t seen_again = 16;  // so many pairs for each that was seen once
  const double saved = saving(a, b);
  if (saved < strong_saving) return 0;
  std::size_t once = 0;
  const std::size_t pairs = together(a, b, once);
  return once * seen_again > pairs ? 0 : saved;
}

// As if groups took parts of bits.
double CodeJoiner::Joining::bits() const {
  double sum = 0;
  for (const Group& group : groups) sum += std::log2(static_cast<double>(group.patterns));
  return sum;
}

// What each role puts on a square is changed by its own moves, but excludes the others'. Groups
// that different moves change make every step look at more patterns: where keys become much shorter
// only.
void CodeJoiner::Joining::join_strong() {
  constexpr double most_left = 0.85;
  const std::vector<Group> before = groups;
  const double bits_before = bits();
  join_best([&](const Group& a, const Group& b) { return saving_of_strong(a, b); });
  if (bits() > most_left * bits_before) groups = before;
}

// Joins groups that saved nothing two by two as long as everything that can occur together stays
// few: five of three patterns take eight bits, by themselves ten.
void CodeJoiner::Joining::pack() {
  std::ranges::stable_sort(groups, {}, &Group::patterns);
  std::vector<Group> packed;
  for (std::size_t first = 0; first < groups.size();) {
    std::size_t best = first + 1;
    std::size_t patterns = 1;
    std::uint32_t bits = 0;
    std::uint32_t most_saved = 0;
    for (std::size_t end = first; end < groups.size(); ++end) {
      patterns *= groups[end].patterns;
      bits += whole_bits(groups[end].patterns);
      if (patterns > most_patterns) break;
      if (bits - whole_bits(patterns) <= most_saved) continue;
      most_saved = bits - whole_bits(patterns);
      best = end + 1;
    }
    packed.push_back(groups[first]);
    for (++first; first < best; ++first) packed.back() = join(packed.back(), groups[first]);
  }
  groups = std::move(packed);
}

std::optional<CodeJoiner::Joining::Numbers> CodeJoiner::Joining::numbers(
    const Group& group, std::span<const std::uint64_t> row) const {
  Numbers result;
  for (const std::size_t part : group.parts) {
    const auto number = apart.groups[part].number(row);
    if (!number) return std::nullopt;
    result.push_back(static_cast<std::uint16_t>(*number));
  }
  return result;
}

// What was shown; groups of one part know what the code begun with does.
void CodeJoiner::Joining::add_known() {
  for (Group& group : groups) {
    if (group.parts.size() == 1) {
      for (std::size_t n = 0; n < apart.groups[group.parts.front()].patterns.size(); ++n) {
        group.add({static_cast<std::uint16_t>(n)});
      }
      continue;
    }
    for (std::size_t r = 0; r < of.rows(); ++r) {
      if (const auto found = numbers(group, of.row(r))) group.add(*found);
    }
  }
}

// 512 positions of patterns that may not occur together, and a step from each; whether joined
// groups had something new then.
bool CodeJoiner::Joining::mix_and_step(Random& random) {
  LaneEvaluator evaluator(of.game_);
  const std::size_t words = evaluator.words();
  std::vector<std::uint64_t> rows(circuit::lanes * words, 0);
  for (std::size_t at = 0; at < circuit::lanes; ++at) {
    const auto put = [&](std::uint32_t fluent) {
      rows[at * words + fluent / 64] |= std::uint64_t{1} << (fluent % 64);
    };
    for (const std::uint32_t fluent : apart.always) put(fluent);
    if (!clock.at.empty()) {
      for (const std::uint16_t place : clock.at[random.below(clock.at.size())]) {
        put(clock.fluents[place]);
      }
    }
    for (const Group& group : groups) {
      const Numbers& numbers = group.known[random.below(group.known.size())];
      for (std::size_t p = 0; p < numbers.size(); ++p) {
        const PositionCode::Group& part = apart.groups[group.parts[p]];
        for (const std::uint16_t place : part.patterns[numbers[p]]) put(part.fluents[place]);
      }
    }
  }
  evaluator.set_positions(rows, circuit::lanes);
  std::vector<std::uint64_t> open;
  std::vector<std::uint32_t> joint(of.game_.ground().moves().size());
  std::vector<std::uint32_t> legal;
  std::size_t count = 0;
  for (std::size_t at = 0; at < circuit::lanes; ++at) {
    bool over = evaluator.terminal(at);
    for (std::size_t role = 0; role < joint.size() && !over; ++role) {
      evaluator.legal(at, role, legal);
      over = legal.empty();
      if (!over) joint[role] = legal[random.below(legal.size())];
    }
    if (over) continue;
    evaluator.set_joint(count++, joint);
    open.insert(open.end(), rows.begin() + static_cast<std::ptrdiff_t>(at * words),
                rows.begin() + static_cast<std::ptrdiff_t>((at + 1) * words));
  }
  if (count == 0) return false;
  evaluator.load(open, count);
  evaluator.step();
  bool news = false;
  for (Group& group : groups) {
    if (group.parts.size() == 1) continue;
    for (std::size_t at = 0; at < count && group.known.size() <= most_closed; ++at) {
      if (const auto found = numbers(group, evaluator.next(at))) {
        if (group.add(*found)) news = true;
      }
    }
  }
  return news;
}

void CodeJoiner::Joining::close() {
  constexpr int most_batches = 300;
  constexpr int enough_quiet = 12;
  Random random(1);
  int quiet = 0;
  for (int batch = 0; batch < most_batches && quiet < enough_quiet; ++batch) {
    quiet = mix_and_step(random) ? 0 : quiet + 1;
    // Those that do not hang together after all fall apart.
    for (std::size_t g = groups.size(); g-- > 0;) {
      if (groups[g].known.size() <= most_closed) continue;
      const Group wide = std::move(groups[g]);
      groups.erase(groups.begin() + static_cast<std::ptrdiff_t>(g));
      for (const std::size_t part : wide.parts) {
        Group& one = groups.emplace_back();
        one.parts = {part};
        for (std::size_t n = 0; n < apart.groups[part].patterns.size(); ++n) {
          one.add({static_cast<std::uint16_t>(n)});
        }
      }
    }
  }
}

PositionCode CodeJoiner::Joining::code() const {
  PositionCode result;
  result.always = apart.always;
  result.never = apart.never;
  result.clock = clock;
  for (const Group& group : groups) {
    std::uint32_t bits = 0;
    for (const std::size_t part : group.parts) bits += apart.groups[part].bits;
    if (whole_bits(group.known.size()) >= bits) {
      for (const std::size_t part : group.parts) result.groups.push_back(apart.groups[part]);
      continue;
    }
    std::vector<Numbers> known = group.known;
    std::ranges::sort(known, [](const Numbers& a, const Numbers& b) {
      return std::ranges::lexicographical_compare(a.rbegin(), a.rend(), b.rbegin(), b.rend());
    });
    PositionCode::Group& joined = result.groups.emplace_back();
    std::vector<std::uint16_t> first;
    for (const std::size_t part : group.parts) {
      const auto& fluents = apart.groups[part].fluents;
      first.push_back(static_cast<std::uint16_t>(joined.fluents.size()));
      joined.fluents.insert(joined.fluents.end(), fluents.begin(), fluents.end());
    }
    for (const Numbers& numbers : known) {
      circuit::Combination& places = joined.patterns.emplace_back();
      for (std::size_t p = 0; p < numbers.size(); ++p) {
        for (const std::uint16_t place : apart.groups[group.parts[p]].patterns[numbers[p]]) {
          places.push_back(static_cast<std::uint16_t>(first[p] + place));
        }
      }
    }
  }
  result.number_bits();
  return result;
}

std::optional<PositionCode> CodeJoiner::joined(const PositionCode& apart,
                                               const Measure& measure) const {
  if (apart.groups.size() > most_groups) return std::nullopt;
  Joining joining(*this, apart);
  for (std::size_t g = 0; g < apart.groups.size(); ++g) {
    if (apart.groups[g].patterns.size() > most_patterns * 2) return std::nullopt;
    if (measure.step != 0 && joining.is_clock(apart.groups[g], measure)) continue;
    joining.groups.emplace_back().parts = {g};
  }
  joining.read_rows();
  using Group = Joining::Group;
  joining.join_best(
      [&](const Group& a, const Group& b) { return joining.saving_of_same_moves(a, b); });
  joining.join_strong();
  joining.join_best([&](const Group& a, const Group& b) { return joining.whole_saving(a, b); });
  joining.pack();
  joining.add_known();
  joining.close();
  return joining.code();
}

}  // namespace orchard::explore
