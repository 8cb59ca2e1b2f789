// Everything of the public face of Clever Orchard.
#pragma once

#include "orchard/budget.hpp"
#include "orchard/cases.hpp"
#include "orchard/census.hpp"
#include "orchard/diagnostic.hpp"
#include "orchard/domains.hpp"
#include "orchard/format.hpp"
#include "orchard/game.hpp"
#include "orchard/match.hpp"
#include "orchard/opponent.hpp"
#include "orchard/picture.hpp"
#include "orchard/playouts.hpp"
#include "orchard/random.hpp"
#include "orchard/record.hpp"
#include "orchard/result.hpp"
#include "orchard/sarif.hpp"
#include "orchard/term.hpp"
