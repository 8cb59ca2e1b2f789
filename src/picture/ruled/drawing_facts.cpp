#include "picture/ruled/drawing_facts.hpp"

namespace orchard::picture {
namespace {

constexpr DrawingFact known_facts[] = {
    {"square", 2, "(square ROW COLUMN)",
     "a square of a board in rows and columns; its PLACE is (at ROW COLUMN)"},
    {"rows", 1, "(rows upwards)", "the first row is at the bottom; without it, at the top"},
    {"columns", 1, "(columns leftwards)", "the first column is at the right"},
    {"order", 2, "(order NAME NUMBER)", "where a row or column stands that is not a number"},
    {"shift_row", 1, "(shift_row ROW)",
     "the row stands half a square to the right; squares become cells of a comb"},
    {"shift_column", 1, "(shift_column COLUMN)", "the column stands half a square lower"},
    {"on_ring", 3, "(on_ring PLACE NUMBER OF)",
     "a place of a ring of OF places, clockwise from the top, NUMBER from 0"},
    {"spot", 3, "(spot PLACE X Y)", "a place anywhere: X to the right, Y downwards, whole numbers"},
    {"edge", 2, "(edge PLACE PLACE)", "two places are joined; part of the board"},
    {"label", 2, "(label PLACE NAME)", "a name written small at the place"},
    {"ground", 2, "(ground PLACE TONE)", "the colour of the place itself"},
    {"hidden", 1, "(hidden PLACE)", "the place is covered"},
    {"piece", 3, "(piece PLACE SHAPE TONE)",
     "something stands there; several pieces stand side by side"},
    {"pieces", 4, "(pieces PLACE SHAPE TONE COUNT)", "so many of them, as a stack"},
    {"long_piece", 4, "(long_piece PLACE PLACE SHAPE TONE)", "a piece that lies on two places"},
    {"chain", 4, "(chain NAME ORDER SHAPE TONE)",
     "a piece of a line of pieces laid end to end, which turns at the edge; ORDER is any term. Its "
     "PLACE is (link NAME ORDER), the free ends are (end NAME first) and (end NAME last)"},
    {"line", 3, "(line PLACE PLACE TONE)", "a stroke through two places"},
    {"arrow", 3, "(arrow PLACE PLACE TONE)", "from the first place to the second"},
    {"mark", 1, "(mark PLACE)", "something happened there last"},
    {"choice", 3, "(choice ROLE MOVE PLACE)", "where a legal move is shown and can be typed"},
    {"tray", 2, "(tray NAME TONE)", "a row of pieces beside the board: a hand, a store"},
    {"in_tray", 4, "(in_tray NAME ORDER SHAPE TONE)", "a piece in it; ORDER is any term"},
    {"counter", 3, "(counter NAME VALUE TONE)", "a value by name: spades left 5"},
    {"gauge", 4, "(gauge NAME NUMBER MOST TONE)", "a number out of MOST, drawn as a bar"},
    {"caption", 1, "(caption WORDS)", "a line of words under the picture"},
    {"meaning", 3, "(meaning SHAPE TONE WORDS)", "what a piece is, for the legend"},
    {"visible", 2, "(visible ROLE FLUENT)",
     "a fluent that the role is shown although no rule tells it"},
};

}  // namespace

std::span<const DrawingFact> drawing_facts() {
  return known_facts;
}

}  // namespace orchard::picture
