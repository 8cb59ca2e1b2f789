#include "review/inquiry/meeting.hpp"

namespace orchard::review {

namespace {

class Meeting {
 public:
  Meeting(Exploration& exploration, const circuit::Network& network,
          const std::vector<Signal>& signals)
      : exploration_(exploration), network_(network), signals_(signals) {
    for (const Signal signal : signals_) met_.push_back(signal == circuit::always);
  }

  std::vector<bool> run() {
    meet_at_random();
    if (exploration_.complete()) meet_everywhere();
    return met_;
  }

 private:
  void note(const explore::Watch& watch, const std::vector<std::size_t>& which) {
    for (std::size_t s = 0; s < which.size(); ++s) {
      if (watch.count(s) > 0) met_[which[s]] = true;
    }
  }
  std::vector<std::size_t> missing() const {
    std::vector<std::size_t> result;
    for (std::size_t s = 0; s < met_.size(); ++s) {
      if (!met_[s] && signals_[s] != circuit::never) result.push_back(s);
    }
    return result;
  }
  std::vector<Signal> signals_of(const std::vector<std::size_t>& which) const {
    std::vector<Signal> result;
    for (const std::size_t s : which) result.push_back(signals_[s]);
    return result;
  }

  void meet_at_random() {
    const std::vector<std::size_t> which = missing();
    explore::Watch watch(exploration_.lanes(), network_, signals_of(which));
    Random random = Random::stream(1, 1);
    std::vector<std::uint32_t> legal;
    std::vector<std::uint32_t> joint;
    const std::size_t roles = exploration_.space().roles();
    exploration_.sample([&](std::span<const std::uint64_t> rows,
                            std::span<const SampledGames::Place> places,
                            const LaneEvaluator& lanes) {
      for (std::size_t at = 0; at < places.size(); ++at) {
        joint.clear();
        for (std::size_t role = 0; role < roles && !lanes.terminal(at); ++role) {
          lanes.legal(at, role, legal);
          if (legal.empty()) break;
          joint.push_back(legal[random.below(legal.size())]);
        }
        if (joint.size() < roles) joint.clear();
        watch.set_joint(at, joint);
      }
      watch.look(rows, places.size());
      note(watch, which);
    });
  }

  void meet_everywhere() {
    const std::vector<std::size_t> which = missing();
    if (which.empty()) return;
    explore::Watch watch(exploration_.lanes(), network_, signals_of(which));
    exploration_.look_at_steps(
        watch, [&](std::span<const Exploration::StepPlace>) { note(watch, which); });
  }

  Exploration& exploration_;
  const circuit::Network& network_;
  const std::vector<Signal>& signals_;
  std::vector<bool> met_;
};

}  // namespace

std::vector<bool> which_are_met(Exploration& exploration, const circuit::Network& network,
                                const std::vector<Signal>& signals) {
  return Meeting(exploration, network, signals).run();
}

}  // namespace orchard::review
