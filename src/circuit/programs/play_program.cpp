#include "circuit/programs/play_program.hpp"

#include "circuit/lanes/mapping.hpp"
#include "circuit/network/copier.hpp"
#include "circuit/programs/choice.hpp"

namespace orchard::circuit {
namespace {

// What one ply of a game is, step by step into one network.
class PlayBuilder {
 public:
  PlayBuilder(const GameNetwork& game, const ChoiceGroups& groups, const PlaySetting& setting)
      : game_(game), groups_(groups), setting_(setting), copy_(game.network, network_) {}

  PlayProgram run() {
    add_inputs();
    for (const std::vector<std::size_t>& group : groups_.groups) add_choice(group);
    const Signal terminal = copy_(game_.terminal);
    const Signal over = network_.either(terminal, !network_.all(can_move_));
    moved_ = network_.all({plays_, !over, made_});
    add_moves();
    conflicts_.push_back(copy_(game_.undeclared_legal));
    conflicts_.push_back(network_.both(made_, copy_(game_.undeclared_next)));
    outputs_ = {network_.both(plays_, over), network_.both(plays_, terminal),
                network_.all({plays_, !terminal, network_.any(std::move(conflicts_))}), moved_};
    add_counts();
    result_.first_value = static_cast<std::uint32_t>(outputs_.size());
    for (const std::vector<Signal>& values : game_.goals) {
      result_.first_goal.push_back(static_cast<std::uint32_t>(outputs_.size()));
      for (const Signal value : values) outputs_.push_back(copy_(value));
    }
    const auto reports = static_cast<std::uint32_t>(outputs_.size());
    add_next(over);
    const Network pairs = in_pairs(network_, outputs_);
    result_.gates = network_.gates();
    result_.pairs = pairs.gates();
    result_.program = map_to_lanes(pairs, outputs_);
    result_.program.state_inputs = static_cast<std::uint32_t>(game_.fluents.size()) + 1;
    result_.program.reports = reports;
    return std::move(result_);
  }

 private:
  void add_inputs() {
    for (const Signal fluent : game_.fluents) {
      fluents_.push_back(network_.add_input());
      copy_.put(fluent, fluents_.back());
    }
    plays_ = network_.add_input();
    for (const std::vector<Signal>& of_role : game_.legal) {
      std::vector<Signal>& moves = legal_.emplace_back();
      for (const Signal move : of_role) moves.push_back(copy_(move));
      can_move_.push_back(network_.any(moves));
      chosen_.emplace_back(moves);
    }
    count_.resize(legal_.size());
    chooses_.resize(legal_.size());
    result_.planes.resize(legal_.size());
  }

  void add_choice(const std::vector<std::size_t>& group) {
    // Moves of the same number stand in one place: only one role of the group has any.
    std::vector<std::vector<Signal>> places;
    for (const std::size_t role : group) {
      std::vector<Signal> waiting;
      std::vector<Signal> others;
      for (std::size_t m = 0; m < legal_[role].size(); ++m) {
        if (groups_.waits[role][m]) {
          waiting.push_back(legal_[role][m]);
          continue;
        }
        if (places.size() == others.size()) places.emplace_back();
        places[others.size()].push_back(legal_[role][m]);
        others.push_back(legal_[role][m]);
      }
      chooses_[role] = network_.any(others);
      // Two waiting moves at once, or one beside another move.
      for (std::size_t i = 0; i < waiting.size(); ++i) {
        conflicts_.push_back(network_.both(waiting[i], chooses_[role]));
        for (std::size_t j = 0; j < i; ++j) {
          conflicts_.push_back(network_.both(waiting[i], waiting[j]));
        }
      }
      for (const std::size_t other : group) {
        if (other == role) break;
        conflicts_.push_back(network_.both(chooses_[role], chooses_[other]));
      }
    }
    std::vector<Signal> candidates;
    for (std::vector<Signal>& place : places) candidates.push_back(network_.any(std::move(place)));
    std::vector<Signal> random;
    for (std::uint32_t i = 0; i < choice_planes(candidates.size()); ++i) {
      random.push_back(network_.add_input());
    }
    if (!random.empty()) {
      for (const std::size_t role : group) {
        result_.planes[role] = {result_.random_blocks, candidates.size()};
      }
      result_.random_blocks += static_cast<std::uint32_t>(random.size());
      ++result_.choices;
    }
    Choice choice = choose_uniformly(network_, candidates, random);
    made_ = network_.both(made_, choice.made);
    for (const std::size_t role : group) {
      count_[role] = choice.count;
      std::size_t place = 0;
      for (std::size_t m = 0; m < legal_[role].size(); ++m) {
        if (groups_.waits[role][m]) continue;
        chosen_[role][m] = network_.both(choice.chosen[place++], legal_[role][m]);
      }
    }
  }

  // What is done once every choice is made; where one is not, nothing.
  void add_moves() {
    for (std::size_t r = 0; r < legal_.size(); ++r) {
      for (std::size_t m = 0; m < legal_[r].size(); ++m) {
        copy_.put(game_.does[r][m], network_.both(chosen_[r][m], made_));
      }
    }
  }

  void add_counts() {
    const auto put = [&](std::size_t role, bool moves, std::size_t weight, Signal signal) {
      if (signal == never) return;
      outputs_.push_back(network_.both(moved_, signal));
      result_.counted.push_back(
          {static_cast<std::uint32_t>(role), moves, static_cast<std::uint32_t>(weight)});
    };
    for (std::size_t r = 0; r < legal_.size(); ++r) {
      std::vector<Signal> others;
      for (std::size_t m = 0; m < legal_[r].size(); ++m) {
        if (!setting_.waiting[r][m]) others.push_back(legal_[r][m]);
      }
      const Signal to_move = network_.any(std::move(others));
      put(r, false, 0, to_move);
      put(r, true, 0, network_.both(to_move, !chooses_[r]));  // its only move
      const Signal among = network_.both(to_move, chooses_[r]);
      for (std::size_t b = 0; b < count_[r].size(); ++b) {
        put(r, true, b, network_.both(among, count_[r][b]));
      }
    }
  }

  // Most fluents keep their value by themselves where nothing is done: that is seen by copying the
  // rules once more, with no move in the place of moves. Not worth its time in large networks,
  // where an operation a fluent is little.
  void add_next(Signal over) {
    constexpr std::uint32_t many_gates = 20'000;
    const bool looks = made_ != always && game_.network.gates() < many_gates;
    Copier idle(game_.network, network_);
    for (std::size_t f = 0; f < fluents_.size(); ++f) idle.put(game_.fluents[f], fluents_[f]);
    for (const std::vector<Signal>& of_role : game_.does) {
      for (const Signal move : of_role) idle.put(move, never);
    }
    for (std::size_t f = 0; f < game_.next.size(); ++f) {
      const Signal initial = setting_.initial[f] ? always : never;
      Signal next = copy_(game_.next[f]);
      if (made_ != always && !(looks && idle(game_.next[f]) == fluents_[f])) {
        next = network_.choose(made_, next, fluents_[f]);
      }
      outputs_.push_back(network_.choose(over, initial, next));
    }
  }

  const GameNetwork& game_;
  const ChoiceGroups& groups_;
  const PlaySetting& setting_;
  PlayProgram result_;
  Network network_;
  Copier copy_;
  std::vector<Signal> fluents_;
  Signal plays_;
  std::vector<std::vector<Signal>> legal_;
  std::vector<Signal> can_move_;
  std::vector<std::vector<Signal>> chosen_;  // by role and move
  std::vector<std::vector<Signal>> count_;   // by role: candidates of its choice
  std::vector<Signal> chooses_;              // by role: it has a move that is no waiting move
  Signal made_ = always;                     // every choice
  Signal moved_;
  std::vector<Signal> conflicts_;
  std::vector<Signal> outputs_;
};

}  // namespace

PlayProgram make_play_program(const GameNetwork& game, const ChoiceGroups& groups,
                              const PlaySetting& setting) {
  return PlayBuilder(game, groups, setting).run();
}

}  // namespace orchard::circuit
