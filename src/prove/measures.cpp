#include "prove/measures.hpp"

#include <ClpEventHandler.hpp>
#include <ClpSimplex.hpp>
#include <CoinPackedMatrix.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>
#include <set>
#include <utility>

#include "base/interruption.hpp"

namespace orchard::prove {
namespace {

// What fluents have in common: the name, what stands in one or two places, and how large the number
// in a place is. Weights are given to these, so that what holds of one square is tried on all.
class Features {
 public:
  explicit Features(const ground::GroundProgram& ground) : of_fluent_(ground.fluents().size()) {
    std::map<std::pair<std::string, std::size_t>, std::vector<std::uint32_t>> named;
    for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
      const Term term = ground.terms().term(ground.fluents()[f].term);
      arguments_.push_back(term.arguments());
      named[{term.name(), arguments_.back().size()}].push_back(f);
    }
    for (const auto& [name, fluents] : named) {
      constexpr std::size_t most_places = 4;
      const std::size_t places = std::min(name.second, most_places);
      for (std::size_t first = 0; first <= places; ++first) {
        for (std::size_t second = first; second <= places; ++second) {
          if (first == places || second != first) add(name.first, fluents, first, second, places);
        }
        for (std::size_t number = 0; first <= places && number < places; ++number) {
          if (number != first) add(name.first, fluents, first, places, number);
        }
      }
    }
  }

  struct Part {
    std::uint32_t feature = 0;
    std::int64_t times = 1;
  };
  const std::vector<Part>& of(std::size_t fluent) const { return of_fluent_[fluent]; }
  // Those of a name, in three stages: how many there are of what is named, how large numbers are,
  // and everything else. What is simpler says less that only the sample makes so.
  static constexpr std::size_t stages = 3;
  using Stages = std::array<std::vector<std::uint32_t>, stages>;
  const std::map<std::string, Stages>& by_name() const { return by_name_; }
  // How much less a weight of it says than one of all fluents of its name.
  double cost(std::uint32_t feature) const { return costs_[feature]; }

 private:
  using Members = std::vector<std::pair<std::uint32_t, std::int64_t>>;

  // A feature for what stands in two places (none if it is behind the last), times the number in a
  // third.
  void add(const std::string& name, const std::vector<std::uint32_t>& fluents, std::size_t first,
           std::size_t second, std::size_t number) {
    constexpr std::size_t most = 400;         // else the sample says too little of each
    constexpr std::int64_t largest = 10'000;  // number, so that sums of all fluents fit
    const auto at = [&](std::uint32_t f, std::size_t place) {
      return place < arguments_[f].size() ? std::optional(arguments_[f][place]) : std::nullopt;
    };
    std::map<std::pair<std::optional<Term>, std::optional<Term>>, Members> by_key;
    for (const std::uint32_t f : fluents) {
      std::int64_t times = 1;
      if (const auto term = at(f, number)) {
        const auto value = term->number();
        if (!value || *value < -largest || *value > largest) continue;
        times = *value;
      }
      by_key[{at(f, first), at(f, second)}].emplace_back(f, times);
    }
    if (by_key.size() > most) return;
    for (auto& [key, members] : by_key) {
      if (!known_.insert(members).second) continue;
      const auto feature = static_cast<std::uint32_t>(costs_.size());
      costs_.push_back(
          std::sqrt(static_cast<double>(fluents.size()) / static_cast<double>(members.size())));
      const auto is_named = [&](const std::optional<Term>& term) {
        return !term || !term->number();
      };
      const bool simple = is_named(key.first) && !key.second;
      const bool numbers = number < arguments_[members.front().first].size();
      by_name_[name][!simple ? 2 : numbers ? 1 : 0].push_back(feature);
      for (const auto& [f, times] : members) {
        if (times != 0) of_fluent_[f].push_back({feature, times});
      }
    }
  }

  std::vector<std::vector<Term>> arguments_;  // by fluent
  std::vector<std::vector<Part>> of_fluent_;
  std::map<std::string, Stages> by_name_;
  std::vector<double> costs_;
  std::set<Members> known_;
};

// By feature how much more there is after a step than before; what stays is not named.
using Row = std::map<std::uint32_t, std::int64_t>;

Row row_of(const Features& features, const SampledStep& step) {
  Row row;
  for (std::size_t f = 0; f < step.before.size(); ++f) {
    if (step.before[f] == step.after[f]) continue;
    for (const auto& [feature, times] : features.of(f)) {
      row[feature] += step.after[f] ? times : -times;
    }
  }
  std::erase_if(row, [](const auto& entry) { return entry.second == 0; });
  return row;
}

using Weights = std::map<std::uint32_t, std::int64_t>;  // by feature; what is not there is 0

std::int64_t change(const Row& row, const Weights& weights) {
  std::int64_t sum = 0;
  for (const auto& [feature, by] : row) {
    if (const auto weight = weights.find(feature); weight != weights.end()) {
      sum += by * weight->second;
    }
  }
  return sum;
}

class StopWhenAsked : public ClpEventHandler {
 public:
  int event(Event) override { return Interruption::asked() ? 5 : -1; }
  ClpEventHandler* clone() const override { return new StopWhenAsked(*this); }
};

// The least number that makes all of these whole as nearly as floating point tells, by continued
// fractions; 1 where that is too large.
std::int64_t common_denominator(const std::vector<double>& shares) {
  constexpr std::int64_t most = 1'000'000;
  constexpr std::int64_t most_of_one = 5'000;
  constexpr double near = 1e-7;
  std::int64_t result = 1;
  for (const double share : shares) {
    double rest = std::abs(share);
    std::int64_t before = 0;
    std::int64_t denominator = 1;
    while (std::abs(share * static_cast<double>(denominator) -
                    std::round(share * static_cast<double>(denominator))) >
           near * static_cast<double>(denominator)) {
      rest = 1 / (rest - std::floor(rest));
      if (!(rest <= static_cast<double>(most_of_one))) return 1;
      const auto digit = static_cast<std::int64_t>(rest);
      before = std::exchange(denominator, digit * denominator + before);
      if (denominator > most_of_one) return 1;
    }
    result = std::lcm(result, denominator);
    if (result > most) return 1;
  }
  return result;
}

// Weights of some features by which the sum falls at as many rows as it can, and rises at none.
// None if there are none.
Weights falling(const std::vector<const Row*>& rows, const Features& features,
                const std::vector<std::uint32_t>& chosen) {
  constexpr double largest = 1'000;
  constexpr double cost = 1e-4;  // of a weight: what is not needed is to be 0
  std::map<std::uint32_t, int> column_of;
  for (const std::uint32_t feature : chosen) {
    column_of.emplace(feature, static_cast<int>(column_of.size()));
  }
  const auto count = static_cast<int>(chosen.size());
  // What is the same in these features is one row.
  std::set<std::vector<std::pair<int, std::int64_t>>> different;
  for (const Row* row : rows) {
    std::vector<std::pair<int, std::int64_t>> here;
    for (const auto& [feature, by] : *row) {
      if (const auto column = column_of.find(feature); column != column_of.end()) {
        here.emplace_back(column->second, by);
      }
    }
    if (!here.empty()) different.insert(std::move(here));
  }
  if (different.empty()) return {};
  ClpSimplex program;
  program.setLogLevel(0);
  const StopWhenAsked handler;
  program.passInEventHandler(&handler);
  // Columns: what a weight is above 0 and below it, and how far each row falls.
  const int columns = 2 * count + static_cast<int>(different.size());
  std::vector<double> least(static_cast<std::size_t>(columns), 0);
  std::vector<double> most(static_cast<std::size_t>(2 * count), largest);
  std::vector<double> costs(static_cast<std::size_t>(2 * count));
  for (std::size_t f = 0; f < chosen.size(); ++f) {
    costs[f] = costs[f + chosen.size()] = cost * features.cost(chosen[f]);
  }
  CoinPackedMatrix matrix(false, 0, 0);
  matrix.setDimensions(0, columns);
  std::vector<int> where;
  std::vector<double> what;
  for (const auto& row : different) {
    where.clear();
    what.clear();
    for (const auto& [column, by] : row) {
      where.insert(where.end(), {column, column + count});
      what.insert(what.end(), {static_cast<double>(by), -static_cast<double>(by)});
    }
    where.push_back(static_cast<int>(most.size()));
    what.push_back(1);
    matrix.appendRow(static_cast<int>(where.size()), where.data(), what.data());
    most.push_back(1);
    costs.push_back(-1);
  }
  const std::vector<double> below(different.size(), -COIN_DBL_MAX);
  const std::vector<double> above(different.size(), 0);
  program.loadProblem(matrix, least.data(), most.data(), costs.data(), below.data(), above.data());
  program.dual();
  if (program.status() != 0) return {};
  std::vector<double> shares;
  const double* solution = program.primalColumnSolution();
  for (int f = 0; f < count; ++f) shares.push_back(solution[f] - solution[f + count]);
  // As whole numbers that rise nowhere.
  Weights best;
  std::ptrdiff_t most_fall = 0;
  const auto expected = std::count_if(solution + 2 * count, solution + columns,
                                      [](double fall) { return fall > 0.5; });
  for (const std::int64_t times : {common_denominator(shares), std::int64_t{1'000}}) {
    Weights result;
    for (std::size_t f = 0; f < chosen.size(); ++f) {
      const auto weight =
          static_cast<std::int64_t>(std::round(shares[f] * static_cast<double>(times)));
      if (weight != 0) result.emplace(chosen[f], weight);
    }
    std::ptrdiff_t fall = 0;
    bool rises = false;
    for (const auto& row : different) {
      std::int64_t by = 0;
      for (const auto& [column, change] : row) {
        const auto weight = result.find(chosen[static_cast<std::size_t>(column)]);
        if (weight != result.end()) by += change * weight->second;
      }
      rises = rises || by > 0;
      fall += by < 0 ? 1 : 0;
    }
    if (rises || fall <= most_fall) continue;
    most_fall = fall;
    best = std::move(result);
    if (fall >= expected) break;
  }
  return best;
}

class MeasureSearch {
 public:
  MeasureSearch(StepInduction& induction, const ground::GroundProgram& ground,
                const std::vector<SampledStep>& steps)
      : induction_(induction), ground_(ground), features_(ground) {
    constexpr std::size_t most_rows = 3'000;
    for (const SampledStep& step : steps) {
      if (rows_.size() == most_rows) break;
      end_if_interrupted();
      rows_.insert(row_of(features_, step));
    }
  }

  std::optional<EndingProof> run() {
    constexpr int most_rounds = 60;
    for (int round = 0; round < most_rounds && !Interruption::asked(); ++round) {
      if (!find_measure()) return std::nullopt;
      switch (look_at_all_steps()) {
        case Solver::Answer::impossible:
          return proof();
        case Solver::Answer::unknown:
          return std::nullopt;
        case Solver::Answer::possible:
          break;
      }
    }
    return std::nullopt;
  }

 private:
  // Sums for the sample; false if some steps have none.
  bool find_measure() {
    std::vector<Weights> levels;
    std::vector<const Row*> left;
    for (const Row& row : rows_) left.push_back(&row);
    while (!left.empty()) {
      end_if_interrupted();
      Weights level = falling_at_most(left);
      if (level.empty()) return false;
      std::erase_if(left, [&](const Row* row) { return change(*row, level) < 0; });
      levels.push_back(std::move(level));
    }
    // What later sums do as well is left out.
    for (std::size_t l = 0; l < levels.size();) {
      const Weights without = std::exchange(levels[l], {});
      if (all_fall(levels)) {
        levels.erase(levels.begin() + static_cast<std::ptrdiff_t>(l));
      } else {
        levels[l++] = without;
      }
    }
    measure_.clear();
    for (const Weights& level : levels) measure_.push_back(sum_of(level));
    return true;
  }

  // Weights of the fluents of one name, if that does, in the first stage in which a sum falls
  // somewhere: sums of few are looked at fast, and easily understood.
  Weights falling_at_most(const std::vector<const Row*>& rows) const {
    Weights best;
    std::ptrdiff_t most = 0;
    std::vector<std::uint32_t> all;
    const auto try_with = [&](const std::vector<std::uint32_t>& features) {
      Weights weights = falling(rows, features_, features);
      const auto falls =
          std::ranges::count_if(rows, [&](const Row* row) { return change(*row, weights) < 0; });
      if (falls <= most) return;
      most = falls;
      best = std::move(weights);
    };
    for (std::size_t stage = 0; stage < Features::stages && most == 0; ++stage) {
      for (const auto& [name, features] : features_.by_name()) {
        if (!features[stage].empty()) try_with(features[stage]);
        all.insert(all.end(), features[stage].begin(), features[stage].end());
      }
    }
    if (most == 0) try_with(all);
    return best;
  }

  // Whether the first of the sums that changes falls, at every row.
  bool all_fall(const std::vector<Weights>& levels) const {
    return std::ranges::all_of(rows_, [&](const Row& row) {
      for (const Weights& level : levels) {
        if (const std::int64_t by = change(row, level); by != 0) return by < 0;
      }
      return false;
    });
  }

  FluentSum sum_of(const Weights& weights) const {
    FluentSum sum;
    for (std::uint32_t f = 0; f < ground_.fluents().size(); ++f) {
      std::int64_t weight = 0;
      for (const auto& [feature, times] : features_.of(f)) {
        if (const auto known = weights.find(feature); known != weights.end()) {
          weight += times * known->second;
        }
      }
      if (weight == 0) continue;
      sum.fluents.push_back(f);
      sum.weights.push_back(weight);
    }
    return sum;
  }

  // Whether some step can be made at which no sum falls before one rises: some of these join the
  // sample.
  Solver::Answer look_at_all_steps() {
    constexpr std::size_t most_new = 40;
    std::size_t found = 0;
    for (const SingleStep& step : induction_.steps()) {
      if (Interruption::asked()) return Solver::Answer::unknown;
      const auto wrong = not_falling(step);
      if (!wrong) return Solver::Answer::unknown;
      switch (induction_.can_be(step, *wrong)) {
        case Solver::Answer::impossible:
          continue;
        case Solver::Answer::unknown:
          return Solver::Answer::unknown;
        case Solver::Answer::possible:
          break;
      }
      const std::vector<bool>& before = induction_.found_position();
      if (!rows_.insert(row_of(features_, {before, induction_.after(before, step)})).second) {
        return Solver::Answer::unknown;
      }
      if (++found == most_new) break;
    }
    return found > 0 ? Solver::Answer::possible : Solver::Answer::impossible;
  }

  std::optional<Signal> not_falling(const SingleStep& step) {
    circuit::Network& network = induction_.network();
    std::vector<Signal> wrong;
    Signal same_before = circuit::always;
    const ExclusiveSignals groups = induction_.groups_around(step);
    for (const FluentSum& sum : measure_) {
      const LinearForm form = induction_.change_of(sum, step);
      const auto rises = sum_is(network, form, groups, [](std::int64_t by) { return by > 0; });
      const auto same = sum_is(network, form, groups, [](std::int64_t by) { return by == 0; });
      if (!rises || !same) return std::nullopt;
      wrong.push_back(network.both(same_before, *rises));
      same_before = network.both(same_before, *same);
      if (same_before == circuit::never) break;
    }
    wrong.push_back(same_before);
    return network.any(std::move(wrong));
  }

  EndingProof proof() const {
    EndingProof result;
    result.by_sums = true;
    for (const FluentSum& sum : measure_) {
      std::set<std::string> names;
      for (const std::uint32_t f : sum.fluents) {
        names.insert(ground_.terms().term(ground_.fluents()[f].term).name());
      }
      result.levels.emplace_back(names.begin(), names.end());
    }
    return result;
  }

  StepInduction& induction_;
  const ground::GroundProgram& ground_;
  Features features_;
  std::set<Row> rows_;
  std::vector<FluentSum> measure_;
};

}  // namespace

std::optional<EndingProof> prove_ending_by_sums(StepInduction& induction,
                                                const ground::GroundProgram& ground,
                                                const std::vector<SampledStep>& steps) {
  try {
    return MeasureSearch(induction, ground, steps).run();
  } catch (const Interrupted&) {
    return std::nullopt;
  }
}

}  // namespace orchard::prove
