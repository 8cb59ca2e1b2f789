// Moves that change nothing but whose turn it is. A move without arguments is taken for a pass.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>

#include "explore/sampling/joint_moves.hpp"
#include "review/inquiry/setting_moves.hpp"
#include "review/inquiry/turn_order.hpp"
#include "review/questions/lasting_fluents.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

namespace {

// By role and move: whether somebody hears something by it: another role, by a percept whose rules
// ask for the move, or the role itself, by one whose rules ask for lasting fluents too (what is
// under the cup that it lifts). Such a move says something, if it changes nothing.
std::vector<std::vector<bool>> told_moves(const ground::GroundProgram& ground,
                                          const std::vector<std::uint64_t>& lasting) {
  std::vector<std::vector<bool>> told;
  for (const auto& of_role : ground.moves()) told.emplace_back(of_role.size(), false);
  std::vector<bool> lasts(ground.atom_count(), false);
  for (std::size_t f = 0; f < ground.fluents().size(); ++f) {
    const ground::AtomId atom = ground.fluents()[f].now;
    if (atom != ground::no_atom) lasts[ground::index_of(atom)] = lasting[f / 64] >> (f % 64) & 1;
  }
  std::vector<std::size_t> asked(ground.atom_count(), 0);  // by which percept, last
  std::size_t number = 0;
  for (std::size_t hearer = 0; hearer < told.size(); ++hearer) {
    for (const auto& percept : ground.percepts()[hearer]) {
      ++number;
      std::vector<ground::AtomId> open;
      bool tells_of_more = false;
      const auto ask = [&](ground::AtomId atom) {
        if (atom == ground::no_atom || asked[ground::index_of(atom)] == number) return;
        asked[ground::index_of(atom)] = number;
        tells_of_more = tells_of_more || lasts[ground::index_of(atom)];
        open.push_back(atom);
      };
      ask(percept.atom);
      while (!open.empty()) {
        const ground::AtomId atom = open.back();
        open.pop_back();
        for (const ground::GroundClause& clause : ground.clauses_of(atom)) {
          for (const ground::AtomId on : ground.positive(clause)) ask(on);
          for (const ground::AtomId on : ground.negative(clause)) ask(on);
        }
      }
      for (std::size_t role = 0; role < told.size(); ++role) {
        if (role == hearer && !tells_of_more) continue;
        for (std::size_t m = 0; m < told[role].size(); ++m) {
          const ground::AtomId does = ground.moves()[role][m].does;
          if (does == ground::no_atom || asked[ground::index_of(does)] != number) continue;
          told[role][m] = true;
        }
      }
    }
  }
  return told;
}

struct Idle {
  Number position = 0;
  Number next = 0;
  std::size_t role = 0;
  std::string move;
};

// Whether a position of each class tells of all: renamings keep what lasts, who waits and which
// moves have arguments.
bool one_tells_of_its_class(const Exploration& exploration,
                            const std::vector<std::uint64_t>& lasting) {
  const explore::SymmetryGroup& symmetry = exploration.space().symmetry();
  const GameCore& core = *GameAccess::core(exploration.explored());
  const auto& terms = exploration.ground().terms();
  const auto& moves = exploration.ground().moves();
  std::vector<std::uint64_t> passing(lasting);
  for (std::uint64_t& word : passing) word = ~word;
  std::vector<std::uint64_t> renamed(lasting.size());
  for (std::size_t e = 1; e < symmetry.size(); ++e) {
    const auto element = static_cast<explore::SymmetryGroup::Element>(e);
    symmetry.rename(passing, element, renamed.data());
    if (renamed != passing) return false;
    for (std::size_t role = 0; role < moves.size(); ++role) {
      for (std::uint32_t m = 0; m < moves[role].size(); ++m) {
        const TermId move = moves[role][m].term;
        const TermId image = moves[role][symmetry.move(element, role, m)].term;
        if (core.is_waiting(role, move) != core.is_waiting(role, image)) return false;
        if ((terms[move].arity == 0) != (terms[image].arity == 0)) return false;
      }
    }
  }
  return true;
}

// The first step after which nothing is different in which one role alone did something.
std::optional<Idle> first_idle(const Exploration& exploration,
                               const std::vector<std::uint64_t>& mask) {
  const StateSpace& space = exploration.space();
  const GameCore& core = *GameAccess::core(exploration.explored());
  LaneEvaluator evaluator(exploration.lanes());
  const auto told = told_moves(exploration.ground(), mask);
  std::vector<std::uint64_t> made_before;
  std::vector<std::uint64_t> made_after;
  std::size_t looked_at = 0;
  constexpr std::size_t most_looked_at = 100'000;  // steps without a change, of waiting roles
  const Number stride = one_tells_of_its_class(exploration, mask) ? space.stride() : 1;
  const auto changes_nothing = [&](std::span<const std::uint64_t> before, Number next) {
    const auto after = space.row(next, made_after);
    for (std::size_t w = 0; w < mask.size(); ++w) {
      if (((before[w] ^ after[w]) & mask[w]) != 0) return false;
    }
    return true;
  };
  // Where chance throws at the same time, a move may matter with another throw: it changes
  // something then that another move of the role would not change like that.
  const auto matters_with_another_throw = [&](Number p, std::span<const std::uint64_t> before,
                                              std::size_t doing,
                                              const std::vector<std::uint32_t>& joint) {
    const auto steps = space.steps(p);
    const auto legal = exploration.legal_at(p, evaluator);
    std::vector<std::vector<std::uint32_t>> joints;
    for (std::uint32_t step = 0; step < steps.size(); ++step) {
      joints.push_back(exploration.joint_of(legal, step));
    }
    const auto is_like = [&](const std::vector<std::uint32_t>& one,
                             const std::vector<std::uint32_t>& other, auto&& may_differ) {
      for (std::size_t role = 0; role < one.size(); ++role) {
        if (one[role] != other[role] && !may_differ(role)) return false;
      }
      return true;
    };
    std::vector<std::uint64_t> made;
    for (std::uint32_t step = 0; step < steps.size(); ++step) {
      const auto by_chance = [&](std::size_t role) { return exploration.is_chance(role); };
      if (!is_like(joints[step], joint, by_chance)) continue;
      const auto row = space.row(steps[step], made);
      const std::vector<std::uint64_t> after(row.begin(), row.end());
      for (std::uint32_t other = 0; other < steps.size(); ++other) {
        const auto by_role = [&](std::size_t role) { return role == doing; };
        if (!is_like(joints[other], joints[step], by_role)) continue;
        const auto instead = space.row(steps[other], made_after);
        for (std::size_t w = 0; w < mask.size(); ++w) {
          if (((before[w] ^ after[w]) & (instead[w] ^ after[w]) & mask[w]) != 0) return true;
        }
      }
    }
    return false;
  };
  for (Number p = 0; p < space.expanded(); p += stride) {
    if (!space.is_position(p)) continue;
    const auto before = space.row(p, made_before);
    const auto steps = space.steps(p);
    for (std::uint32_t step = 0; step < steps.size(); ++step) {
      if (!changes_nothing(before, steps[step])) continue;
      if (++looked_at > most_looked_at) return std::nullopt;
      const auto joint = exploration.joint_of(exploration.legal_at(p, evaluator), step);
      std::vector<std::size_t> doing;
      for (std::size_t role = 0; role < joint.size(); ++role) {
        const TermId move = exploration.ground().moves()[role][joint[role]].term;
        if (!core.is_waiting(role, move) && !exploration.is_chance(role)) doing.push_back(role);
      }
      if (doing.size() != 1 || space.choices(p, doing[0]) == 1) continue;
      const TermId move = exploration.ground().moves()[doing[0]][joint[doing[0]]].term;
      if (exploration.ground().terms()[move].arity == 0) continue;  // a pass, meant to be one
      if (told[doing[0]][joint[doing[0]]]) continue;
      if (matters_with_another_throw(p, before, doing[0], joint)) continue;
      return Idle{p, steps[step], doing[0], exploration.ground().terms().text(move)};
    }
  }
  return std::nullopt;
}

Answer without_change(std::string finding, Line line) {
  Answer answer{"effect", Verdict::suspicious, {std::move(finding)}};
  answer.line_title =
      fmt::format("after {}; the last one changes nothing", plies_text(line.joints.size()));
  answer.line = std::move(line);
  return answer;
}

// A move with arguments that a role can make while it has another one, and that changes nothing
// lasting, with what the others do: they wait.
struct IdleMove {
  Watched watched;
  JointMove joint;
  bool weighed = true;  // with every throw; otherwise it may matter with another one
};

// What the others do while a role does something, if that is clear: each has one way to wait, and
// chance does whatever it can. None at all if one of them cannot wait.
std::optional<std::vector<std::vector<std::uint32_t>>> joints_of_others(
    const Exploration& exploration, std::size_t role) {
  const GameCore& core = *GameAccess::core(exploration.explored());
  const auto& moves = exploration.ground().moves();
  std::vector<std::vector<std::uint32_t>> ways(moves.size(), {0});  // of the role itself: any
  for (std::size_t other = 0; other < moves.size(); ++other) {
    if (other == role) continue;
    const bool chance = exploration.is_chance(other);
    ways[other].clear();
    for (std::uint32_t m = 0; m < moves[other].size(); ++m) {
      if (chance || core.is_waiting(other, moves[other][m].term)) ways[other].push_back(m);
    }
    if (!chance && ways[other].size() > 1) return std::nullopt;
  }
  std::vector<std::vector<std::uint32_t>> result;
  if (std::ranges::none_of(ways, [](const auto& of_role) { return of_role.empty(); })) {
    explore::each_joint_move(
        ways, [&](const std::vector<std::uint32_t>& joint) { result.push_back(joint); });
  }
  return result;
}

// A step that one role makes alone, with a throw of chance, as signals.
struct Way {
  std::vector<std::uint32_t> joint;
  std::size_t thrown = 0;     // which of the joints of the others
  std::vector<Signal> legal;  // all of these
  std::vector<Signal> next;   // by fluent
};

// Whether a way changes something that lasts, and that another move with the same throw would not
// change like that.
Signal matters(const Way& way, const std::vector<Way>& ways, Watchlist& list,
               const std::vector<std::uint64_t>& lasting) {
  circuit::Network& network = list.network();
  std::vector<Signal> never_so;
  for (const Way& other : ways) {
    if (other.thrown != way.thrown || other.joint == way.joint) continue;
    const Signal other_legal = network.all(other.legal);
    for (std::size_t f = 0; f < way.next.size(); ++f) {
      const bool lasts = (lasting[f / 64] >> (f % 64) & 1) != 0;
      if (!lasts || way.next[f] == other.next[f]) continue;
      never_so.push_back(!network.all({other_legal, network.differ(way.next[f], other.next[f]),
                                       network.differ(way.next[f], list.game().fluents[f])}));
    }
  }
  return !network.all(std::move(never_so));
}

// Of every role and move, a signal that it is such a one; none where it is not clear what the
// others do, or the moves are many.
std::optional<std::vector<IdleMove>> idle_moves(Watchlist& list,
                                                const std::vector<std::uint64_t>& lasting) {
  constexpr std::size_t most_moves = 256;    // of all roles
  constexpr std::size_t most_joints = 1024;  // that may be legal
  constexpr std::size_t most_pairs = 4096;   // with the same throw: each adds to what is proved of
  const Exploration& exploration = list.exploration();
  circuit::Network& network = list.network();
  const circuit::GameNetwork& game = list.game();
  const GameCore& core = *GameAccess::core(exploration.explored());
  const auto& moves = exploration.ground().moves();
  std::size_t count = 0;
  for (const auto& of_role : moves) count += of_role.size();
  if (count > most_moves) return std::nullopt;
  std::vector<IdleMove> result;
  const auto told = told_moves(exploration.ground(), lasting);
  std::size_t joints = 0;
  for (std::size_t role = 0; role < moves.size(); ++role) {
    const auto others = joints_of_others(exploration, role);
    if (!others) return std::nullopt;
    if (exploration.is_chance(role)) continue;
    std::vector<Way> ways;
    for (std::uint32_t m = 0; m < moves[role].size(); ++m) {
      for (std::size_t thrown = 0; thrown < others->size(); ++thrown) {
        Way way{(*others)[thrown], thrown, {!game.terminal, network.several(game.legal[role])}, {}};
        way.joint[role] = m;
        for (std::size_t r = 0; r < moves.size(); ++r) {
          way.legal.push_back(game.legal[r][way.joint[r]]);
        }
        if (network.all(way.legal) == circuit::never) continue;
        if (++joints > most_joints) return std::nullopt;
        way.next = list.next_after(way.joint);
        ways.push_back(std::move(way));
      }
    }
    std::vector<Signal> matter;  // by way, where chance throws
    const bool weighed =
        others->size() > 1 && ways.size() * ways.size() <= most_pairs * others->size();
    if (weighed) {
      for (const Way& way : ways) matter.push_back(matters(way, ways, list, lasting));
    }
    for (const Way& way : ways) {
      const std::uint32_t m = way.joint[role];
      const TermId move = moves[role][m].term;
      if (core.is_waiting(role, move) || exploration.ground().terms()[move].arity == 0) continue;
      if (told[role][m]) continue;
      std::vector<Signal> all = way.legal;
      for (std::size_t f = 0; f < way.next.size(); ++f) {
        if ((lasting[f / 64] >> (f % 64) & 1) == 0) continue;
        all.push_back(!network.differ(way.next[f], game.fluents[f]));
      }
      // Not if it matters with another throw.
      for (std::size_t other = 0; other < matter.size(); ++other) {
        if (ways[other].joint[role] != m || ways[other].thrown == way.thrown) continue;
        all.push_back(!network.all({network.all(ways[other].legal), matter[other]}));
      }
      const Signal idle = network.all(std::move(all));
      if (idle == circuit::never) continue;
      result.push_back({{fmt::format("{} of {} changes nothing but the turn",
                                     exploration.ground().terms().text(move),
                                     exploration.game().roles()[role].name()),
                         list.watch(idle)},
                        exploration.joint_move(way.joint)});
    }
  }
  return result;
}

// Where moves are too many to be watched one by one: whether none that one role alone makes leaves
// everything that lasts as it is.
bool none_is_idle(Findings& findings, const std::vector<std::uint64_t>& lasting) {
  const Exploration& exploration = findings.exploration();
  const GameCore& core = *GameAccess::core(exploration.explored());
  const auto& moves = exploration.ground().moves();
  const auto& terms = exploration.ground().terms();
  const auto told = told_moves(exploration.ground(), lasting);
  return findings.never_in_steps([&](const prove::SingleStep& step, circuit::Network& network) {
    std::vector<std::size_t> doing;
    for (std::size_t role = 0; role < moves.size(); ++role) {
      const TermId move = moves[role][step.joint[role]].term;
      if (!core.is_waiting(role, move) && !exploration.is_chance(role)) doing.push_back(role);
    }
    if (doing.size() != 1) return circuit::never;
    const std::size_t role = doing.front();
    const std::uint32_t made = step.joint[role];
    if (terms[moves[role][made].term].arity == 0 || told[role][made]) return circuit::never;
    std::vector<Signal> same;
    for (const auto& [fluent, after] : step.changes) {
      if ((lasting[fluent / 64] >> fluent % 64 & 1) == 0) continue;
      same.push_back(!network.differ(after, findings.game().fluents[fluent]));
    }
    return network.all(std::move(same));
  });
}

}  // namespace

Conclusion ask_effect(Watchlist& list) {
  std::optional<std::vector<IdleMove>> beyond;
  const std::vector<std::uint64_t> lasting = lasting_fluents(list.exploration());
  if (!list.exploration().complete()) beyond = idle_moves(list, lasting);
  return [lasting, beyond](Findings& findings) {
    Exploration& exploration = findings.exploration();
    const auto idle = first_idle(exploration, lasting);
    if (idle) {
      std::vector<Number> line = exploration.space().line_to(idle->position);
      line.push_back(idle->next);
      return std::vector{
          without_change(fmt::format("{} of {} changes nothing but the turn", idle->move,
                                     exploration.game().roles()[idle->role].name()),
                         exploration.line_through(line))};
    }
    if (const auto setting = idle_setting(exploration)) {
      std::vector<Number> line = exploration.space().line_to(setting->position);
      line.push_back(exploration.space().steps(setting->position)[setting->step]);
      Answer answer{
          "effect",
          Verdict::suspicious,
          {fmt::format("{} of {} is legal although {} holds already", setting->move,
                       exploration.game().roles()[setting->role].name(), setting->fluent)}};
      answer.line = exploration.line_through(line);
      answer.line_title = fmt::format("after {}; the last one sets what was already so",
                                      plies_text(line.size() - 1));
      return std::vector{answer};
    }
    std::vector<Watched> watched;
    for (const IdleMove& move : beyond.value_or(std::vector<IdleMove>())) {
      watched.push_back(move.watched);
    }
    if (const Watched* first = soonest(findings, watched)) {
      const auto& sighting = findings.sighting(first->number);
      const IdleMove& move = (*beyond)[static_cast<std::size_t>(first - watched.data())];
      if (!move.weighed) {
        return std::vector{Answer{
            "effect",
            Verdict::unknown,
            {fmt::format("{} with one throw; with the others this was not tried", first->what)}}};
      }
      return std::vector{without_change(
          first->what, exploration.continued(exploration.line_to(*sighting.first), move.joint))};
    }
    bool some_tell = false;
    for (const std::vector<bool>& of_role : told_moves(exploration.ground(), lasting)) {
      some_tell = some_tell || std::ranges::count(of_role, true) > 0;
    }
    const char* const what =
        some_tell
            ? "every move with arguments changes more than the turn, or tells somebody something"
            : "every move with arguments changes more than the turn";
    if (beyond && beyond->empty()) {
      return std::vector{
          Answer{"effect", Verdict::holds, {fmt::format("{}, by the rules alone", what)}}};
    }
    if (!beyond && !exploration.complete() && none_is_idle(findings, lasting)) {
      Answer answer{"effect", Verdict::holds, {what}};
      answer.evidence.reach = {Reach::Kind::proved};
      return std::vector{answer};
    }
    return std::vector{nowhere(findings, "effect", what, watched)};
  };
}

}  // namespace orchard::review
