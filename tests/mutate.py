#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Plants faults in a copy of the source, one at a time; the suite must catch each.

    ./dev mutate            all faults
    ./dev mutate NAME ...   some of them
    ./dev mutate --part 1/2 every second of all, for two copies side by side; the last one to end writes the table of all
    ./dev mutate --list     check that every fault still finds its place, without building
    ./dev mutate --random 60 --seed 1   faults at random places of core, exchange and the document
    ./dev mutate --random 60 --keep     in the copy as it was built last, while the tree is worked on
    ./dev mutate --random 60 --core     of core and exchange only, without the tests of the window
    ./dev mutate --random 60 --reach    asks only the programs that reach a line, by ./dev reach; a line no program reaches is missed
    ./dev mutate --random 60 --part 1/2 every second of them, for two runs side by side
    ./dev mutate --random 60 --in core/design   of one room or file alone

Writes docs/methods/mutation.md when all were run. A fault that no test catches ends with exit status 1.
"""
import json, os, pathlib, random, re, resource, shutil, subprocess, sys

import reach

ROOT = pathlib.Path(__file__).resolve().parent.parent
COPY = ROOT / "build" / "mutate"
# name, file, text that stands there once (white space folded), its replacement, tests that are asked
FAULTS = [
    ("exponent of the hydraulic radius", "core/hydraulics/uniform_flow.cpp", "return a * std::cbrt(r * r) / n; } double conveyance", "return a * std::cbrt(r) / n; } double conveyance", "hydraulics"),
    ("critical depth without g", "core/hydraulics/uniform_flow.cpp", "std::cbrt(q * q / gravity)", "std::cbrt(q * q)", "hydraulics"),
    ("sign of the Froude term", "core/hydraulics/barrel.cpp", "sign_ * (1 - froude2)", "sign_ * (1 + froude2)", "hydraulics"),
    ("pressure part dropped", "core/hydraulics/barrel.cpp", "if (excess >= 0) return {y + excess * length, length, length};", "if (excess >= 0) return {y, length, length};", "hydraulics"),
    ("momentum without the pressure above the crown", "core/hydraulics/uniform_flow.cpp", "return flow * flow / (gravity * a) + moment + a * std::max(depth - d, 0.0);", "return flow * flow / (gravity * a) + moment;", "hydraulics"),
    ("linear instead of log-log rain", "core/hydrology/idf.cpp", "log_duration_.push_back(std::log(durations[i]));", "log_duration_.push_back(durations[i]);", "hydraulics"),
    ("coefficient not capped", "core/analysis/rational.cpp", "std::min(1.0, cover.coefficient * rain.frequency_factor)", "(cover.coefficient * rain.frequency_factor)", "analysis"),
    ("travel time left out", "core/analysis/rational.cpp", "std::max(d.time, f.time + l.travel)", "std::max(d.time, f.time)", "analysis"),
    ("held flow dropped", "core/analysis/rational.cpp", "std::max(flow, largest_inflow)", "std::max(flow, 0 * largest_inflow)", "analysis"),
    ("structure loss not added", "core/analysis/grade_line.cpp", "velocity_head(r.velocity_up) + in.loss * velocity_head(r.velocity_up) +", "velocity_head(r.velocity_up) +", "analysis"),
    ("stale grade line kept after a size change", "core/analysis/grade_line.h", "friend bool operator==(const PipeInput&, const PipeInput&) = default;", "friend bool operator==(const PipeInput& a, const PipeInput& b) { return a.flow == b.flow && a.below_level == b.below_level; }", "analysis"),
    ("stale rain kept", "core/analysis/flow_update.cpp", "x.known_flow != y.known_flow || x.local_time", "x.local_time", "analysis"),
    ("highest instead of lowest way out", "core/network/compile.cpp", "return std::tie(level, id) > std::tie(o.level, o.id);", "return std::tie(level, id) < std::tie(o.level, o.id);", "analysis"),
    ("limit judged from the wrong side", "core/review/review.cpp", "beyond_limit(value, limit.value, at_most) ? Verdict::Beyond", "beyond_limit(value, limit.value, !at_most) ? Verdict::Beyond", "review"),
    ("size proposal ignores the pipe above", "core/design/design.cpp", "else if (s->size < above - 1e-9)", "else if (false)", "review"),
    ("undo skips the origin", "core/model/edit.cpp", "forward ? p.origin_after : p.origin_before", "p.origin_after", "model"),
    ("deleting a structure leaves its pipes", "core/model/edit.cpp", "drop_where(std::type_identity<Pipe>{}, ends_here);", "", "model"),
    ("copy on write without the copy", "core/model/table.h", "if (c.use_count() != 1) c = std::make_shared<Chunk>(*c);", "if (false) c = std::make_shared<Chunk>(*c);", "model"),
    ("cover to the inside of the barrel", "core/model/lay.cpp", "const double below = s.default_cover + pipe.wall + pipe.size", "const double below = s.default_cover + pipe.size", "model-lay"),
    ("pinned ends follow too", "core/model/lay.cpp", "end_free = p.origin[to_field] == Origin::Default;", "end_free = p.origin[to_field] != Origin::Ground;", "model-lay"),
    ("conflicts of variants not seen", "core/model/variant.cpp", "if (conflicts && !same_value(now, patch->before) && !same_value(now, patch->after))", "if (conflicts && same_value(now, patch->before) && !same_value(now, patch->after))", "model-variants"),
    ("a formula's minus taken from the wrong side", "core/model/formula.cpp", "case '-': return a->value(project, kind, id) - b->value(project, kind, id);", "case '-': return b->value(project, kind, id) - a->value(project, kind, id);", "model-formula"),
    ("street noise taken for low points", "core/streets/street.cpp", "return to - from >= least_depth && to > from;", "return to > from;", "streets"),
    ("street paths left in a ring", "core/design/street_paths.cpp", "if (!worst) break;", "break;", "design-site"),
    ("alternatives priced without working space", "core/design/branches.h", "return inside + 2 * wall + 2 * trench_working_space;", "return inside + 2 * wall;", "design-layout"),
    ("split pipe bends at the wrong part", "core/design/layout.cpp", "const double share = station / drawn;", "const double share = 1 - station / drawn;", "design-layout"),
    ("existing ground before the finished", "core/terrain/terrain.cpp", "if (finished) if (const double z = finished->elevation(p, cursors.finished); !std::isnan(z)) return z;", "", "terrain"),
    ("journal not flushed", "exchange/journal.cpp", "if (!disk_->append(path_, bytes) || !disk_->flush(path_)) return false;", "if (!disk_->append(path_, bytes)) return false;", "exchange-journal"),
    ("rows pasted twice are taken", "exchange/paste_table.cpp", "if (row.fate != PasteRow::Fate::Matched) continue;", "if (!row.id) continue;", "exchange-paste"),
    ("unit of a pasted head ignored", "exchange/paste_table.cpp", "column.factor = u->factor;", "", "exchange-paste"),
    ("LandXML read easting first", "exchange/landxml.cpp", "p.y = n[at] * unit; p.x = n[at + 1] * unit;", "p.x = n[at] * unit; p.y = n[at + 1] * unit;", "exchange-import"),
    ("foot of 0.30480061 m", "core/base/units.cpp", "foot = 0.3048,", "foot = 0.30480061,", "base"),
    ("full-flow travel velocity ignored", "core/analysis/rational.cpp", "if (network.full_travel_velocity && l.capacity > 0)", "if (false)", "review-settings"),
    ("a joint's loss added instead of taken", "core/hydraulics/uniform_flow.cpp", "return a > 0 ? y + (1 + loss) * flow", "return a > 0 ? y + (1 - loss) * flow", "hydraulics-barrels"),
    ("a group's limit ignored in review", "core/review/limits.cpp", "if (row.group == l.group)", "if (false)", "review-settings"),
    ("remedies count what is gone in rarer events", "core/design/design.cpp", "return !viewed || !e || e->return_period <= viewed->return_period;", "return true;", "review-settings"),
    ("a pending Edit built on the one before", "app/desk/document.cpp", "project_ = base_; ChangeSet what = pending_touched_;", "ChangeSet what = pending_touched_;", "app-safety"),
    ("a face kept while constraints free faces", "core/terrain/triangulate.cpp", "if (va != vb) cdt_.insert_constraint(va, vb);", "if (va == vb) cdt_.insert_constraint(va, vb);", "terrain"),
    ("an undo below the save not in the journal", "exchange/journal.cpp", "const bool here = depth_ > 0;", "const bool here = true;", "app-safety"),
    ("steep told by normal depth", "core/hydraulics/barrel.cpp", "st.steep = falls && !lid;", "st.steep = std::isfinite(normal) && normal < st.critical;", "hydraulics-barrels"),
    ("a flow that changed not felt below", "core/analysis/flow_update.cpp", "l.flow == k.flow && same_number(l.travel, k.travel);", "same_number(l.travel, k.travel);", "analysis-warm"),
    ("composite gutter with one slope", "core/streets/gutter.cpp", "(eight_thirds(d) - eight_thirds(depth(edge))) / s.gutter_slope", "(eight_thirds(d) - eight_thirds(depth(edge))) / s.cross_slope", "streets-inlets"),
    ("clogging of a grate ignored on grade", "core/streets/inlet.cpp", "const double length = grate.length * (1 - grate.clogging);", "const double length = grate.length;", "streets-inlets"),
    ("side interception dropped", "core/streets/inlet.cpp", "c.captured = flow * (c.frontal * c.frontal_share + c.side * (1 - c.frontal_share));", "c.captured = flow * (c.frontal * c.frontal_share);", "streets-inlets"),
    ("opening takes in proportion to its length", "core/streets/inlet.cpp", "std::pow(1 - std::max(length, 0.0) / all, 1.8)", "std::pow(1 - std::max(length, 0.0) / all, 1.0)", "streets-inlets"),
    ("grate in a sag with its curb side", "core/streets/inlet.cpp", "grate(g, g.length + 2 * g.width)", "grate(g, 2 * g.length + 2 * g.width)", "streets-inlets"),
    ("bypass forgotten", "core/analysis/street_flow.cpp", "next.area += passed_area;", "", "analysis-street_flow"),
    ("bypass arrives at once", "core/analysis/street_flow.cpp", "next.time = std::max(next.time, f.time + travel);", "next.time = std::max(next.time, f.time);", "analysis-street_flow"),
    ("grade of a sag taken for that of its gutter", "core/network/street_inlet.cpp", "low = before > 0 && after > 0;", "low = before > 0 || after > 0;", "review-street_settings"),
    ("a sag takes what spills over its crest", "core/analysis/street_flow.cpp", "taken = std::min(flow, sag_capacity(in.form, in.gutter.section, in.crest, k));", "taken = flow;", "analysis-street_flow"),
    ("stale streets kept", "core/analysis/solver.cpp", "if (a.inlets != b.inlets || a.edition", "if (a.edition", "analysis-street_flow"),
    ("limits of the major system held in all events", "core/review/limits.cpp", "return l.system == EventRole::Other || system == EventRole::Other || l.system == system;", "return l.system == EventRole::Other || system == EventRole::Other || l.system != system;", "review-street_settings"),
    ("spacing without bypass", "core/streets/spacing.cpp", "flow = in.bypass; at = place;", "flow = 0; at = place;", "streets-spacing"),
    ("exponent of sheet flow", "core/hydrology/concentration.cpp", "std::pow(s.n * s.length / ft, 0.8)", "std::pow(s.n * s.length / ft, 0.5)", "hydraulics-concentration"),
    ("partial areas that answer later", "core/analysis/rational.cpp", "if (other <= t) area += a;", "area += a;", "analysis-street_flow"),
    ("a land cover's own time ignored", "core/network/compile.cpp", "std::isnan(p.time) ? whole : p.time", "whole", "review-street_settings"),
    ("water of a ring divided evenly", "core/analysis/block.cpp", "send(link, q / leaves,", "send(link, 0.5 + 0 * q,", "analysis-rings"),
    ("backward tree flow met by the wrong level", "core/analysis/block.cpp", "(needs(l, -flow, true, middle) > below ? high : low) = middle;", "(needs(l, -flow, true, middle) > below ? low : high) = middle;", "analysis-rings"),
    ("a ring's joint passes energy in the final levels", "core/analysis/block.cpp", "if (in_core_[at_node(i)]) in.from_joint = false;", "", "analysis-rings"),
    ("a dry way never wetted", "core/analysis/block.cpp", "forward > level_within) return {forward, true};", "forward > level_within) return {};", "analysis-rings"),
    ("held at the rim forgotten for fast water", "core/analysis/grade_line.cpp", "node.held = false; hold_at_rim(network.hold_at_rim, n.rim, true, r.velocity_up, node);", "node.held = false;", "report-found"),
    ("a network patched where a ring may turn", "core/network/compile.cpp", "if (!levels && nth(old.components, from.component).further > 0) return {};", "(void)levels;", "network"),
    ("an answer of an older run is told", "app/desk/task.h", "if (*newest == number) f();", "f();", "app-desk"),
    ("a splice forgets what was cut", "exchange/edit_text.cpp", "before->substr(static_cast<std::size_t>(kept + cut))", "before->substr(static_cast<std::size_t>(kept))", "app-desk"),
    ("depths of a rain table taken for intensities", "exchange/rain_table.cpp", "column[i] *= depths ? unit / t.durations[i] : unit;", "column[i] *= unit;", "exchange"),
    ("a storm that does not alternate", "core/hydrology/design_storm.cpp", "return a > b;", "return a < b;", "hydraulics-storms"),
    ("a dry pipe asked for its velocity", "core/review/rules.cpp", "return flow(s) > 1e-12 ? HeldValue{value} : not_asked;", "return flow(s) > -1 ? HeldValue{value} : not_asked;", "review"),
    ("crowns that do not meet", "core/design/designer.h", "above.down + share * (h_above - h)", "above.down + 0 * share * (h_above - h)", "design-propose_design"),
    ("cover without the wall in a design", "core/design/designer.h", "const double above = cover_of(pipe.id) + size.wall + size.size;", "const double above = cover_of(pipe.id) + size.size;", "design-propose_design"),
    ("a least velocity that bounds no slope", "core/design/pipe_fit.cpp", "if (wanted < whole)  // else", "if (false)  // else", "design-propose_design"),
    ("a steep pipe without its drop", "core/design/designer.h", "if (free.up && up - down > range.most * l.length)", "if (false)", "design-propose_design"),
    ("flows of the first round only", "core/design/designer.h", "flow_[i] = round < settled_after ? flow : std::max(flow_[i], flow);", "if (flow_[i] == 0) flow_[i] = flow;", "design-propose_design"),
    ("a locked size taken", "core/design/designer.h", "options.sizes && !p.size_locked", "options.sizes", "design-propose_design"),
    ("least cost that digs for nothing", "core/design/least_cost.cpp", "pipe.dig_price * size.width * pipe.length *", "0 * pipe.dig_price * size.width * pipe.length *", "design-least_cost"),
    ("a larger arrival beaten by any", "core/design/least_cost.cpp", "for (int d = 0; mixed && d < a.size; ++d)", "for (int d = 0; (mixed || d >= 0) && d < static_cast<int>(sizes); ++d)", "design-least_cost"),
    ("an existing pipe that costs", "core/design/quantities.cpp", "if (l.status != Status::Proposed || std::isnan(price)) return;", "if (std::isnan(price)) return;", "design-quantities"),
    ("tailwater lowered where it is raised", "core/design/sensitivity.cpp", "tailwater_level += change.change;", "tailwater_level -= change.change;", "design-quantities"),
    ("a part of a flow path without its fall", "core/design/flow_parts.cpp", "double slope = fall / l;", "double slope = mean;", "design-flow_parts"),
    ("windows of a storm that start with it", "core/model/event_rain.cpp", "for (std::size_t i = 0; i + k <= n; ++i) most", "for (std::size_t i = 0; i < 1; ++i) most", "model-event_rain"),
    ("a drawn cover that takes no ground", "core/design/cover_cut.cpp", "std::round((rest->area - covered) * 10) / 10", "std::round(rest->area * 10) / 10", "design-covers"),
    ("a drop that rises", "core/design/grading.cpp", "out.levels[i].down = level - slopes[i] * pipes[i].length;", "out.levels[i].down = level + slopes[i] * pipes[i].length;", "design-grading"),
    ("a second pin that is not kept", "core/design/grading.cpp", "const double slope = (a.level - b.level - fall) / free;", "const double slope = (a.level - b.level) / free;", "design-grading"),
    ("crowns matched the wrong way", "core/design/grading.cpp", "share * (height(section_of(*pipes_[i]))", "-share * (height(section_of(*pipes_[i]))", "design-grading"),
    ("cover of a tie to the crown alone", "core/design/grading.cpp", "at.rim - tie.value - pipe.wall - height(section_of(pipe))", "at.rim - tie.value - height(section_of(pipe))", "design-grading"),
    ("the pin below a conflict not named", "core/design/grading.cpp", "say({Kind::Pipe, id}, words, {chain.levels[i].above, chain.levels[i].below});", "say({Kind::Pipe, id}, words, {chain.levels[i].above});", "design-grading"),
    ("a level of one event met in all", "core/analysis/grade_line.cpp", "if (t.event != event) continue;", "", "analysis-outlets"),
    ("a rating not held at its ends", "core/analysis/grade_line.cpp", "if (above == r.flows.end()) return r.levels.back();", "if (above == r.flows.end()) return 2 * r.levels.back();", "analysis-outlets"),
    ("a stale rating", "core/analysis/flow_update.cpp", "a.ratings == b.ratings &&", "", "analysis-outlets"),
    ("an exit loss of the whole head", "core/analysis/grade_line.cpp", "in.flow * std::sqrt(1 - access_hole_exit)", "in.flow * 0", "analysis-outlets"),
    ("a turn that does not count", "core/hydraulics/access_hole.cpp", "e.angle = level_flow > 0 ? 4.5 *", "e.angle = level_flow > 0 ? 0 *", "hydraulics-outlets"),
    ("energy below that of the outflow", "core/hydraulics/access_hole.cpp", "e.energy = std::max(e.first +", "e.energy = std::min(e.first +", "hydraulics-outlets"),
    ("barrels that each carry all", "core/analysis/grade_line.cpp", "in.flow = f.flow / l.barrels;", "in.flow = f.flow;", "analysis-outlets"),
    ("shear by the velocity", "core/hydraulics/open_channel.cpp", "out.shear = water * gravity * out.depth * slope;", "out.shear = water * gravity * out.velocity * slope;", "hydraulics-outlets"),
    ("an acceptance that never opens", "core/review/policy.cpp", "return by > std::max(1e-3 * std::abs(accepted), 1e-4);", "return by > 1e9;", "review-policy"),
    ("a finding accepted everywhere", "core/review/policy.cpp", "accepted_[{a.finding, a.element, a.event}] = &a;", "accepted_[{a.finding, 11, a.event}] = &a;", "review-policy"),
    ("larger than needed below what enters", "core/review/oversize.cpp", "s->size < nth(entering.largest_size, l.from) - 1e-9", "false", "review-policy"),
    ("clearance of the middle lines", "core/crossings/crossings.cpp", "n.vertical = std::abs(on.z - other.z) - first_.half_height - second_.half_height;", "n.vertical = std::abs(on.z - other.z);", "crossings"),
    ("beside each other by one gap", "core/review/clashes.cpp", "(c.crosses || below(c.horizontal, c.least_horizontal, share))", "true", "crossings"),
    ("pipes clash where they meet", "core/review/clashes.cpp", "if (a.from == b.from || a.from == b.to || a.to == b.from || a.to == b.to) continue;", "", "crossings"),
    ("levels of the top taken for the middle", "core/review/clashes.cpp", "? -out.half_height", "? 0 * out.half_height", "crossings"),
    ("lines measured in metres everywhere", "exchange/buried_lines.cpp", "add(out_.lines[at->second], x * metre_, y * metre_,", "add(out_.lines[at->second], x, y,", "exchange-buried_lines"),
    ("the area of a band as a rectangle", "core/hydraulics/section_table.cpp", "r.area = b.area + d * (b.top0 + r.top) / 2;", "r.area = b.area + d * b.top0;", "hydraulics-sections"),
    ("the egg's sides of half their radius", "core/hydraulics/section_table.cpp", "{-2 * r, 2 * r}, 3 * r, 3 * r, meet, 0", "{-2 * r, 2 * r}, 3 * r, 2.9 * r, meet, 0", "hydraulics-sections"),
    ("critical depth of the most energy", "core/hydraulics/uniform_flow.cpp", "if (e < energy) {", "if (e > energy || energy > 1e200) {", "hydraulics-sections"),
    ("a pair called the smallest without the singles", "core/design/branch_remedy.cpp", "if (!singles() && !pairs()) greedy();", "if (!pairs()) greedy();", "design-branch_remedy"),
    ("a tree that is not improved", "core/design/propose_network.cpp", "improve(price, ways, at, root, tree, nodes.size() <= few, stop);", "", "design-propose_network"),
    ("pipes through buildings", "core/design/propose_network.cpp", "if (l < 0.5 || blocked(p, q)) return;", "if (l < 0.5) return;", "design-propose_network"),
    ("what is shown compared with itself", "app/panels/findings_page.cpp", "const std::set<FindingKey>& base = shown_only ? standing_ : before_;", "const std::set<FindingKey>& base = now;", "app-grade"),
    ("a drag that is no pin", "app/profile/profile_view.cpp", "if (!rim && taker_ && taker_(", "if (!rim && taker_ && false && taker_(", "app-grade"),
    ("strips that stay behind", "core/design/inlet_spacing.cpp", "for (const Strip& s : starts) reshape(s, station, s.to);", "", "review-street_findings"),
    ("save without rename", "exchange/disk.cpp", "disk->write(temporary, bytes, error)", "disk->write(target, bytes, error)", "exchange"),
    ("a bend loses twice", "core/analysis/grade_line.cpp", "r.bends = entrance ? 0 : in.bend * velocity_head(r.velocity_up);", "r.bends = entrance ? 0 : 2 * in.bend * velocity_head(r.velocity_up);", "analysis-minor_losses"),
    ("bends raise what is set at the entrance", "core/analysis/grade_line.cpp", "r.bends = entrance ? 0 : in.bend", "r.bends = in.bend", "analysis-minor_losses"),
    ("degrees of bends cancel", "core/model/project.cpp", "sum += std::abs(std::atan2(in.x * out.y - in.y * out.x, in.x * out.x + in.y * out.y));", "sum += std::atan2(in.x * out.y - in.y * out.x, in.x * out.x + in.y * out.y);", "analysis-minor_losses"),
    ("a widening below critical depth", "core/analysis/grade_line.cpp", "return std::max(critical, depth_of_energy(", "return std::max(0 * critical, depth_of_energy(", "analysis-minor_losses"),
    ("ties to tied pipes followed once", "core/design/ties.cpp", "settled = !moved;", "settled = true;", "design-ties"),
    ("typed levels follow too", "core/design/ties.cpp", "== Origin::Typed && !std::isnan(", "== Origin::Default && !std::isnan(", "design-ties"),
    ("a tie forgotten when graded", "core/design/grading.cpp", "if (words != had) e.set(Kind::Pipe, p.id, start ?", "if (words != had && !ask_.every) e.set(Kind::Pipe, p.id, !start ?", "design-ties"),
    ("relief pipe on the one it relieves", "core/design/relief.cpp", "const Point q = point_at(line, s, off);", "const Point q = point_at(line, s, 0 * off);", "design-ties"),
    ("tailwater below the limit blamed", "core/design/relief.cpp", "!(budget.start_level > allowed)", "std::isnan(budget.start_level)", "design-ties"),
    ("levels of an event taken for another", "core/design/outer_levels.cpp", "if (r && r->event.value == match->id)", "if (r && match)", "design-ties"),
    ("a branch without its own branches", "drawing/profile.cpp", "add_branches(project, net, result, review, branch, branch.stations.size() - 1, out);", "", "report-drawing_files"),
    ("part of a profile not moved to its head", "drawing/profile.cpp", "s.x -= x; for (const double level", "for (const double level", "app-profile"),
    ("labels of a plan on each other", "drawing/plan_sheet.cpp", "if (off || !take(box)) continue;", "if (off) continue;", "drawing-plan_sheet"),
    ("constant loss for the whole of its first step", "core/hydrology/losses.cpp", "std::min(left, rate_ * step * time)", "std::min(left, rate_ * step)", "hydraulics-losses"),
    ("Horton by the clock", "core/hydrology/losses.cpp", "time_ = (low + high) / 2; return {};", "time_ += step; return {};", "hydraulics-losses"),
    ("drowned crest runs free", "core/hydraulics/outlet.cpp", "return std::pow(1 - std::pow(tail / head, exponent), 0.385);", "return 1 - 0 * exponent;", "hydraulics-storage"),
    ("a shapefile's feet taken for metres", "exchange/raster/raster_module.cpp", "by = system->GetLinearUnits() / metre;", "by = metre / metre;", "exchange-buried_lines"),
    ("ranks of findings not in criteria sets", "exchange/shelf.cpp", "p.finding_ranks = project.finding_ranks;", "", "exchange-paste"),
    ("a typed level on the wrong end", "app/profile/profile_table.cpp", "start = along != edited_.lower;", "start = along == edited_.lower;", "app-profile"),
    ("a unit hydrograph too slow", "core/analysis/catchment_flow.cpp", "unit_hydrograph(0.6, unit_share", "unit_hydrograph(0.7, unit_share", "analysis-hydrograph"),
    ("runoff beyond the end forgotten", "core/analysis/catchment_flow.cpp", "return all - last;", "return 0;", "analysis-hydrograph"),
    ("a lag that loses a step", "core/analysis/reach_routing.cpp", "value(i, k + 1);", "value(i, k + 2);", "analysis-hydrograph"),
    ("bypass counted at its own inlet too", "core/analysis/hydrograph.cpp", "q.values[k] += capture.at(comes_[k]);", "q.values[k] += comes_[k];", "analysis-hydrograph"),
    ("a pond's water that goes nowhere", "core/analysis/hydrograph.cpp", "next.values[k] += part[k];", "next.values[k] += 0 * part[k];", "analysis-hydrograph"),
    ("water below a pond not met", "core/analysis/hydrograph.cpp", "in.below = nth(below_, p);", "", "analysis-hydrograph"),
    ("a riser that its culvert does not hold", "core/detention/pond_outflow.cpp", "out[i].flow = std::min(on, free);", "out[i].flow = std::max(on, free);", "detention"),
    ("inlet control without its slope", "core/detention/culvert.cpp", "(e.mitered ? 0.7 : -0.5) * c.slope", "0.0 * c.slope", "detention"),
    ("outlet control without its entrance", "core/detention/culvert.cpp", "return up + (1 + c.entrance.loss) * velocity_head(v);", "return up + velocity_head(v);", "detention"),
    ("a pump that never stops", "core/detention/pond_outflow.cpp", "else if (level <= ways[i].stop) running[i] = 0;", "", "detention"),
    ("soakage that leaves by the outlets", "core/detention/pond_routing.cpp", "r.soaked += ran * (1 - share);", "r.soaked += 0 * ran * (1 - share);", "detention"),
    ("outlets sized a step too large", "core/design/storage_study.cpp", "s.size_after = std::max(found, low) * step;", "s.size_after = (std::max(found, low) + 1) * step;", "analysis-hydrograph"),
    ("an impervious share without its storage", "core/network/place_storage.cpp", "HeldLoss{held}", "HeldLoss{0 * held}", "review-storage_settings"),
    ("losses of a cover not its own", "core/network/storage_rows.cpp", "LossesBy by = l ? l->losses : LossesBy::Project;", "LossesBy by = LossesBy::Project;", "review-storage_settings"),
    ("a release held at twice its flow", "core/analysis/result_fields.cpp", "if (a.node == static_cast<int>(i) && a.event == r.event) return a.flow;", "if (a.node == static_cast<int>(i) && a.event == r.event) return 2 * a.flow;", "review-storage_settings"),
    ("space of the ground without its rim", "core/design/pond_ground.cpp", "wet[k] = std::max(level[k], water);", "wet[k] = level[k] - 1;", "design-pond_ground"),
    ("what is kept of another storm", "core/analysis/flow_memory.cpp", "a.steps == b.steps && a.frequency_factor == b.frequency_factor && a.depths == b.depths", "a.steps == b.steps && a.frequency_factor == b.frequency_factor", "analysis-flow_memory"),
    ("a pond that changed not felt", "core/analysis/flow_memory.cpp", "(p >= 0 && !same_pond(nth(s.ponds, p), nth(t.ponds, q)))", "(p >= 0 && false && !same_pond(nth(s.ponds, p), nth(t.ponds, q)))", "analysis-flow_memory"),
    ("levels below ponds not felt", "core/analysis/flow_memory.cpp", "any = !same_levels(was_, now_, part);", "any = false;", "analysis-flow_memory"),
    ("a pipe that changed not felt below", "core/analysis/flow_memory.cpp", "if (now_.links[l].main && !same_pipe(", "if (false && !same_pipe(", "analysis-flow_memory"),
    ("bypass of untouched inlets left out", "core/analysis/flow_memory.cpp", "nth(nodes, in.to) == FlowPlan::Part::Computed) streets[s] = 1;", "nth(nodes, in.to) == FlowPlan::Part::Computed) streets[s] = streets[s];", "analysis-flow_memory"),
    ("rings divided twice", "core/analysis/hydrograph.cpp", "for (const LinkResult& l : out_.links) memory_->link_flows.push_back(l.flow);", "memory_->node_flows.clear();", "analysis-flow_memory"),
    ("parts of a pattern evenly long", "core/model/event_rain.cpp", "if (!e.pattern_times.empty()) return on_equal_steps(storm.depths, e.pattern_times);", "if (e.pattern_times.size() > 1000000) return on_equal_steps(storm.depths, e.pattern_times);", "model-event_rain"),
    ("a ditch above the pipe that comes", "core/design/roadside_ditch.cpp", "low < up) up = low;", "low < up) up = 1 * up;", "design-roadside_ditch"),
    ("a ditch that cuts the street's corner", "core/design/roadside_ditch.cpp", "p.bends = std::move(bends);", "", "design-roadside_ditch"),
    ("outlets lead nowhere", "core/network/ways.cpp", "pond.ways[w].target < 0 ? no_node : pond.ways[w].target", "pond.ways[w].target < 0 ? no_node : no_node", "analysis-ways"),
    ("a tie that moved not said", "core/design/ties.cpp", "out_.moves.push_back({{was.id}", "if (false) out_.moves.push_back({{was.id}", "design-ties"),
    ("paving over lawn taken for paving led away", "core/network/place_storage.cpp", "l && l->drains == CoverDrains::OverPervious;", "l && l->drains != CoverDrains::OverPervious;", "review-storage_settings"),
    ("a crown street carries all beside its curb", "core/streets/gutter.cpp", "const double t = spread(s, d), end = std::min(t, width);", "const double t = spread(s, d), end = std::max(t, width);", "streets-inlets"),
    ("depth over velocity", "core/analysis/result_fields.cpp", "street(r, i)->depth * street(r, i)->velocity", "street(r, i)->depth / street(r, i)->velocity", "review-street_settings"),
    ("depression width of a type not read", "core/network/street_inlet.cpp", "o.depression_width = given(usable(t, &StructureType::depression_width, not_given), o.depression_width);", "", "network"),
    ("walls by the wrong axis", "core/model/project.cpp", "std::abs(along.x / l * axis.x + along.y / l * axis.y)", "std::abs(along.x / l / axis.x + along.y / l * axis.y)", "network"),
    ("an undo below the base forgotten", "exchange/journal.cpp", "revert(out.base, *edit); follow(*edit, false);", "follow(*edit, false);", "exchange-journal"),
    ("rows that are no objects passed over", "exchange/project_read.cpp", 'refuse(item.line, "a " + what + " must be an object, found " + item.type_name(), "Write it as { ... }.");', "", "exchange"),
    ("an outfall that would lie lower not said", "core/design/branches.cpp", "if (!next.pipe && end < m.pipe->invert_down - 1e-9) possible = false;", "", "design-layout"),
    ("the first way costs all", "core/design/propose_network.cpp", "if (nth(way, at) < 0) return 1e300;", "if (nth(way, at) <= 0) return 1e300;", "design-propose_network"),
    ("inlets take one share through time", "core/analysis/hydrograph.cpp", "for (double& q : approach_) q -= capture.at(q);", "for (double& q : approach_) q *= 1 - f.efficiency;", "analysis-spill"),
    ("what enters by one share through time", "core/analysis/hydrograph.cpp", "q.values[k] += capture.at(comes_[k]);", "q.values[k] += comes_[k] * nth(out_.streets, n.inlet).efficiency;", "analysis-capture_curve"),
    ("a range reviewed without its last", "core/review/review.cpp", "reviewer.links(begin, std::min(begin + together, links))", "reviewer.links(begin, std::min(begin + together, links) - 1)", "review"),
    ("notes of one range only", "core/review/review.cpp", "held += next.held;", "", "review"),
    ("a jump sought from the end of its piece", "core/hydraulics/barrel.cpp", "const double target = distance - piece.x, guess", "const double target = piece.x + piece.panel.total() - distance, guess", "hydraulics"),
    ("odd part of a panel's polynomial", "core/hydraulics/panel.h", "p_[3] = d1 - e2 * (z[2] + z[1]);", "p_[3] = d1 + e2 * (z[2] + z[1]);", "hydraulics-barrels"),
    ("a rough panel taken for smooth", "core/hydraulics/panel.h", "(std::abs(p_[6]) / 32 + std::abs(p_[5]) / 64)", "(std::abs(p_[6]) / 320000)", "hydraulics-barrels"),
    ("steps that changed more than was foreseen not parted", "core/detention/pond_routing.cpp", "parts[i] = std::max(parts[i], parts_for(changes_[i], r.peak_outflow));", "", "detention"),
    ("an empty pond gives what its way could take", "core/detention/pond_routing.cpp", "const bool empty = h2 <= s.bottom() && o2 > 0;", "const bool empty = false && o2 > 0;", "detention"),
    ("halving stops at the first pass", "core/detention/pond_routing.cpp", "if (same) break;", "if (!same) break;", "detention"),
    ("a pond's pipes run to the outfall above it", "core/network/compile.cpp", "structures_[i]->kind == StructureKind::Outfall || ends_in_pond(static_cast<int>(i))", "structures_[i]->kind == StructureKind::Outfall", "review-storage_findings"),
    ("water that parts above a pond not said", "core/review/rules.cpp", "if (nth(network.through_time->pond_of, upper) >= 0 || next == no_node) return true;", "if (next == no_node) return true;", "review-storage_findings"),
    ("water outside felt a step late", "core/detention/pond_routing.cpp", "if (met_) o = out(h), before = flows_;", "", "detention"),
    ("a first row of data taken for a head", "exchange/paste_table.cpp", "{ head = false; break; }", "{ break; }", "exchange-paste"),
    ("an asset written at every save", "exchange/assets.cpp", "if (!is_hash(hash) || exists(folder + \"/\" + hash)) continue;", "if (!is_hash(hash)) continue;", "exchange-journal"),
    ("an edit that does not fit is half kept", "exchange/journal.cpp", "edit->changes.clear();", "", "exchange-journal"),
    ("the journal not told of a save", "app/desk/document.cpp", "if (journal_ && path == path_) journal_->saving(content_hash(write_project(root_)));", "", "app-safety"),
    ("a capacity without its section", "core/analysis/explain.cpp", "slope(); full_section(); const double full", "slope(); const double full", "analysis-outlets"),
    ("a number's line is the next", "exchange/json_tree.cpp", "if (lines_->passed) ++lines_->line; lines_->passed = *at_ == '\\n';", "if (*at_ == '\\n') ++lines_->line;", "exchange"),
    ("rows in their old order after an edit", "app/ledger/ledger_model.cpp", "arranged_ = false; // Names of structures stand in the rows of pipes, catchments and paths.", "", "app-desk"),
    ("releases of the site before not taken", "core/design/storage_study.cpp", "row.source = source; e.insert(row);", "row.source = source;", "design-pond_design"),
    ("a changed outlet taken for the same", "core/analysis/flow_memory.cpp", "return *o == std::get<Outlet>(b.how);", "return *o != std::get<Outlet>(b.how);", "analysis-flow_memory"),
    ("a pond that is not routed without remedy", "core/design/fault_remedies.cpp", "if (r.mends) list.push_back(std::move(r));", "", "design-pond_design"),
    ("any outlet runs over the street", "core/network/water_order.cpp", "if (!w.overflow || !leads(p, w)", "if (!leads(p, w)", "analysis-spill"),
    ("an overflow needs no street path", "core/network/water_order.cpp", "[&](const StreetPath& s) { return s.from == from && s.to == to; }", "[&](const StreetPath& s) { return s.from == from; }", "analysis-spill"),
    ("inlets below a spilled one come first", "core/network/water_order.cpp", "if (const int next = nth(net_.nodes, in.to).inlet; next != no_inlet) nth(time_.after_spill, next) = 1;", "", "analysis-spill"),
    ("what a spill brings is taken in the first round only", "core/analysis/hydrograph.cpp", "if (first || spill_comes_to(i)) gather_own(i, first);", "if (first) gather_own(i, first);", "analysis-spill"),
    ("streets above a spilled inlet are forgotten", "core/analysis/hydrograph.cpp", "spill_comes_to(to) && !after_spill ? fixed_street_ : on_street_", "on_street_", "analysis-spill"),
    ("bypass of a spill is booked twice", "core/analysis/hydrograph.cpp", "nth(again ? moving_ : still_, node)", "nth(still_, node)", "analysis-spill"),
    ("pipes hold a spill back", "core/analysis/hydrograph.cpp", "w.behind < 0 && !w.pump && !w.over_street;", "w.behind < 0 && !w.pump;", "analysis-spill"),
    ("inlets after a spill are kept from before", "core/analysis/flow_memory.cpp", "if (runs_on(in)) nth(hang, in.to) = 1;", "", "analysis-spill"),
    ("all enters, and bypass again", "core/analysis/hydrograph.cpp", "if (net_.limited) add_street(i, comes_, before);", "add_street(i, comes_, before);", "analysis-spill"),
    ("where all enters no street is watched", "core/analysis/hydrograph.cpp", "if (in.end == PathEnd::Nowhere || !(f.bypass > 0)) return;", "if (in.end == PathEnd::Nowhere || !net_.limited || !(f.bypass > 0)) return;", "analysis-spill"),
    ("a spill enters nothing where all enters", "core/analysis/hydrograph.cpp", "if (!way.over_street || !net_.limited) run(sink(i, way.target));", "if (!way.over_street) run(sink(i, way.target));", "analysis-spill"),
    ("a spill is no water of the street", "core/analysis/street_water.cpp", "if ((s.station - w.station) * step > -1e-6) w.flow += s.flow;", "(void)s;", "analysis-spill"),
    ("full above a jump", "core/analysis/grade_line.cpp", "r.full_length = std::min(r.full_length, barrel.length - r.jump);", "", "analysis"),
    ("outlets of another pond end pipes", "core/network/compile.cpp", "[&](const PondOutlet& o) { return o.structure.value == s.id; });", "[&](const PondOutlet& o) { return o.structure.value != 0; });", "review-storage_findings"),
    ("a crowd keeps its marks", "app/plan/plan_paint.cpp", "if (each > 1.5)", "if (each > 1e9)", "app-stages"),
    ("many long lines have smooth edges", "app/plan/plan_paint.cpp", "in_view.size() <= many && ink * scale_ < 0.2 * width() * height()", "in_view.size() <= many && ink >= 0", "app-stages"),
    ("a street's name lies under structures", "app/plan/plan_ground.cpp", "scene_.structures_in(QRectF(low, high)).empty();", "QRectF(low, high).width() > -1;", "app-streets"),
    ("a ring counts its water twice", "core/analysis/solver.cpp", "arrives += nth(out.links, l).flow.flow;", ";", "analysis-hydrograph"),
    ("a pasted table keeps the old durations", "exchange/rain_table.cpp", 'e.set(Kind::Event, same->id, "durations", table.durations);', "", "exchange"),
    ("ties climb on each other in silence", "core/design/ties.cpp", "if (!settled && !stop_.stop_requested()) {", "if (false) {", "design-ties"),
    ("depths of a table that names a rate in its head", "exchange/rain_table.cpp", "spoken_depth == depths ? spoken : (depths ? spoken * 3600 : spoken / 3600)", "spoken_depth == depths ? spoken : (depths ? spoken * 3600 : spoken * 3600)", "exchange-rain_tables"),
    ("a ditch of a depth of its own", "core/design/roadside_ditch.cpp", "p.size = ask.depth;", "", "design-roadside_ditch"),
    ("a ditch's corner by the wrong reach", "core/design/roadside_ditch.cpp", "line[i].x + reach * (before.x + after.x)", "line[i].x + reach / (before.x + after.x)", "design-roadside_ditch"),
    ("pipes of the largest size wherever kinds are exchanged", "core/design/layout.cpp", "at == sizes.end() ? *sizes.back() : **at", "at != sizes.end() ? *sizes.back() : **at", "design-layout"),
    ("ties that stay when a pipe is turned round", "core/design/layout.cpp", 'e.set(Kind::Pipe, row.id, "tie_from", row.tie_to, origin("tie_to"));', "", "design-layout"),
    ("the tie of an end on both parts of a pipe", "core/design/layout.cpp", "lower.tie_from.clear();", "", "design-layout"),
    ("a catchment without covers lost in a merge", "core/design/catchments.cpp", "if (covers && !covered.contains(c->id)) {", "if (false) {", "design-site"),
    ("surfaces of a LandXML file not handed on", "exchange/site_import.cpp", "o.surfaces = std::move(x.surfaces);", "", "exchange-site_files"),
    ("millimetres of LandXML twice as long", "exchange/landxml.cpp", 'if (out.unit == "millimeter") unit = 0.001;', 'if (out.unit == "millimeter") unit = 0.002;', "exchange-landxml"),
    ("texts of blocks not turned with them", "exchange/dxf_read.cpp", "t.angle + i.angle, t.text", "t.angle, t.text", "exchange-drawings"),
    ("angles of pipes that meet, mirrored", "core/network/place_outlets.cpp", "return {to.x - from.x, to.y - from.y};", "return {to.x - from.x, to.y + from.y};", "network-places"),
    ("numbers of a tree compiled anew", "core/network/compile.cpp", "if (now->bends != before->bends) return {};", "if (now->bends == before->bends) return {};", "network-places"),
    ("series kept at every node", "core/analysis/flow_memory.cpp", "std::vector<char> cut(n, 0);", "std::vector<char> cut(n, 1);", "analysis-flow_memory"),
    ("an outlet above sized beside one of another size", "core/design/storage_study.cpp", "row = with_size(row, s.size_after); put_way(row);", "row = with_size(row, s.size_after);", "design-pond_design"),
    ("ways of the water drawn straight", "core/design/street_paths.cpp", "row.bends = p.bends;", "", "design-site"),
    ("a tie to a line's start from the wrong side", "core/design/grading.cpp", "to_mm(line->invert_from + tie.value)", "to_mm(line->invert_from - tie.value)", "design-grading"),
    ("the held level of a joint taken for its energy", "core/analysis/explain_loss.cpp", '", zr + V^2 / (2 * g))"', '", zr)"', "analysis-explain"),
    ("dry structures of a ring without a level", "core/analysis/block.cpp", "if (std::isnan(nth(out_.nodes, i).level.energy)) settle(i);", "if (false) settle(i);", "analysis-explain"),
    ("runoff cut off by the end in other units", "core/analysis/catchment_flow.cpp", "return beyond * step;", "return beyond / step;", "analysis-run_length"),
    ("the way over a line without its clearance", "core/design/clash_remedies.cpp", "c.other_top + least + pipe.wall", "c.other_top - least + pipe.wall", "design-clash_remedies"),
    ("proposed sizes that count nothing after", "core/design/design.cpp", "proposal.beyond_after = count_beyond(proposal.findings);", "", "review"),
    ("the last residual called the worst", "core/hydrology/idf_fit.cpp", "if (std::abs(r) > std::abs(fit.worst)) fit.worst = r;", "fit.worst = r;", "hydraulics-concentration"),
    ("bypass before the rain added to what is caught", "core/analysis/hydrograph.cpp", "const double passes_before = before - capture.at(before);", "const double passes_before = before + capture.at(before);", "analysis-run_length"),
    ("the main lowered by the steeper of two slopes", "core/design/branches.cpp", "std::min(m.pipe->slope, project_.settings().default_slope)", "std::max(m.pipe->slope, project_.settings().default_slope)", "design-layout"),
    ("an event chosen again", "app/desk/document.cpp", "if (event == event_ || !project_.events.find(event.value)) return;", "if (event == event_ && !project_.events.find(event.value)) return;", "app-document"),
    ("catchments keep a street that is gone", "core/model/edit.cpp", 'for (const std::uint64_t c : freed) set(Kind::Catchment, c, "street", std::uint64_t{0});', "", "model"),
    ("level ground without its lowest way out", "core/terrain/drainage.cpp", "low = k; to_vertex(low);", "low = k;", "terrain-flat"),
    ("an orifice that leaps as it drowns", "core/hydraulics/outlet.cpp", "free.flow = coefficient * (falls + below * speed(h - tail)) + more * (1 - tail / height);", "", "hydraulics-storage"),
    ("cover of a branch without its height", "core/design/branches.cpp", "return s.rim - (invert + height(section_of(p)) + p.wall);", "return s.rim - (invert - height(section_of(p)) + p.wall);", "design-branches"),
    ("a relief pipe two metres off", "core/design/relief.cpp", "constexpr double clear = 1;", "constexpr double clear = 2;", "design-relief"),
    ("crossings of a tree that cost nothing", "core/design/propose_network.cpp", "return nth(used_, node) && nth(way, node) == c;", "return nth(used_, node) && nth(way, node) != c;", "design-network_search"),
    ("a proposed network without its volume", "core/design/propose_network.cpp", "if (!std::isnan(volume)) out_.volume += volume;", "", "design-network_search"),
    ("an exchanged structure keeps its kind", "core/design/layout.cpp", "e.set(Kind::Structure, s.id, \"kind\", type->kind);", ";", "design-layout"),
    ("a line that is cut loses its first part", "core/design/layout.cpp", "parts.push_back(part); part = {part.back()};", "part = {part.back()};", "design-layout"),
    ("an abandoned inlet takes a catchment", "core/network/place_inlets.cpp", "s.street != c.street || !takes_water(s) ||", "s.street != c.street || s.kind != StructureKind::Inlet ||", "design-areas"),
    ("an abandoned structure in use not told", "core/review/data.cpp", "one_point(); abandoned();", "one_point();", "review"),
    ("what a run's remedy cures not counted", "core/design/branch_remedy.cpp", "out_.gone = outcome_.gone;", "", "design-branch_remedy"),
    ("a first outlet that leads nowhere", "core/design/give_storage.cpp", "bool led = false;", "bool led = true;", "design-give_storage"),
    ("drawdown from the beginning of the rain", "core/detention/pond_routing.cpp", "r.drawdown = time - r.peak_level_time;", "r.drawdown = time;", "detention-routing"),
    ("soakage taken for outflow", "core/detention/pond_routing.cpp", "r.soaked += ran * (1 - share);", "r.soaked += ran * share;", "detention-routing"),
    ("cover at the wrong end", "core/analysis/result_fields.cpp", "link(r, i).to, link(r, i).invert_down); }", "link(r, i).to, link(r, i).invert_up); }", "analysis-result_fields"),
    ("strips on one side of the street", "core/design/inlet_spacing.cpp", "in.drains_to, sign * task.drained_width)", "in.drains_to, task.drained_width)", "design-street_inlets"),
    ("the head of a run that nothing pins", "core/design/grading.cpp", "const double z = out_.places[0].leaving_before;", "const double z = out_.places[1].leaving_before;", "design-grading"),
]


def pattern(text):
    """Matches the text with any white space between its tokens."""
    return re.compile(r"\s+".join(re.escape(part) for part in text.split()))


def place(body, fault):
    found = pattern(fault[2]).findall(body)
    if len(found) != 1:
        sys.exit(f"mutate: '{fault[0]}' finds its place {len(found)} times in {fault[1]}: update tests/mutate.py")


def run(*command):
    return subprocess.run(command, cwd=COPY, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


def prepare():
    COPY.mkdir(parents=True, exist_ok=True)
    for name in ("src", "tests", "bench", "examples"):
        shutil.copytree(ROOT / name, COPY / name, dirs_exist_ok=True, copy_function=newer)
    for name in ("CMakeLists.txt", "CMakePresets.json", "README.md"):
        newer(ROOT / name, COPY / name)
    run("cmake", "--preset", "release", "-DCULVERT_SHARED=ON")


def room_of(file):
    """The library a file is linked into: alone it is built anew for a fault."""
    parts = str(file).split("/")
    return "_".join(parts[:2]) if parts[0] == "core" else parts[0]


def machine_code(file):
    """What the compiler made of a file in the copy."""
    made = sorted((COPY / "build/release/CMakeFiles").glob(f"*.dir/src/{file}.o"))
    return made[0].read_bytes() if made else b""


def newer(source, target):
    """Copies where the content differs, so that an earlier build of the copy stays."""
    source, target = pathlib.Path(source), pathlib.Path(target)
    if not target.exists() or target.read_bytes() != source.read_bytes():
        shutil.copy(source, target)


SWAPS = [(" < ", " <= "), (" <= ", " < "), (" > ", " >= "), (" >= ", " > "), (" == ", " != "), (" != ", " == "), (" && ", " || "), (" || ", " && "),
         (" + ", " - "), (" - ", " + "), (" * ", " / "), (" / ", " * "), ("std::max", "std::min"), ("std::min", "std::max"), ("true", "false"),
         ("false", "true"), ("continue;", "break;"), ("break;", "continue;"), ("++", "--"), (" += ", " -= ")]


def ways_of(line):
    """Each way to spoil a line: the place, what stands there, what would."""
    code = line.split("//")[0]
    if not code.strip() or code.strip().startswith(("#", "*", "///", "using", "namespace", "template")) or code.count('"') >= 2 and '"' in code.strip()[:2]:
        return []
    hide = lambda m: "\0" * len(m.group())
    bare = re.sub(r"'\\?[^']'", hide, re.sub(r'"[^"]*"', hide, code))  # words are not spoiled
    ways = [(m.start(), a, b) for a, b in SWAPS for m in re.finditer(re.escape(a), bare)]
    ways += [(m.start(), m.group(), str(int(m.group()) + 1)) for m in re.finditer(r"(?<![\w.])\d+(?![\w.])", bare)]
    ways += [(m.start(), m.group(), m.group() + (" * 2" if float(m.group()) else " + 1")) for m in re.finditer(r"(?<![\w.])\d+\.\d+(?![\w.])", bare)]
    if m := re.match(r"(\s*)if \((.*)\) (return|continue|break|[a-z_]+[ .(+-])", bare):
        ways.append((m.start(2), code[m.start(2):m.end(2)], "!(" + code[m.start(2):m.end(2)] + ")"))
    # What only asks for memory early changes no answer.
    if re.match(r"\s*[\w.\->\[\]()]+(\(.*\)| [-+*/]?= .*);$", code) and "return" not in code and ".reserve(" not in code:
        ways.append((len(code) - len(code.lstrip()), code.strip(), ";"))
    return ways


def random_faults(count, seed):
    """Faults at random places: an operator, a condition, a constant, a dropped statement. One a line at most."""
    dice = random.Random(seed)
    # Of the copy: the tree may be worked on meanwhile.
    files = [f for part in ("core", "exchange") for f in sorted((COPY / "src" / part).rglob("*.cpp"))]
    if "--core" not in sys.argv:
        files += sorted((COPY / "src" / "app" / "desk").rglob("*.cpp"))
    if "--in" in sys.argv:
        within = str(COPY / "src" / sys.argv[sys.argv.index("--in") + 1])
        files = [f for f in files if str(f).startswith(within)]
    places = [(f, i, line) for f in files for i, line in enumerate(f.read_text().splitlines())]
    found = []
    while len(found) < count * 3:  # more than asked for: some do not compile
        file, i, line = dice.choice(places)
        if not (ways := ways_of(line)):
            continue
        at, old, new = dice.choice(ways)
        found.append((file.relative_to(COPY / "src"), i, line, line[:at] + new + line[at + len(old):]))
    return found


BESIDE_THE_WINDOW = [re.sub(r"^(\w+)-\1$", r"\1", f"{f.parent.name}-{f.stem[5:]}") for f in sorted((ROOT / "tests").glob("*/test_*.cpp"))
                     if f.parent.name != "app"]


def tests_for(file):
    """Programs that should see a fault in a file, the nearest first."""
    names = sorted(t.name[5:] for t in (COPY / "build/release/bin").glob("test-*"))
    if "--core" in sys.argv:
        names = sorted(BESIDE_THE_WINDOW)
    room = str(file).split("/")[1] if str(file).startswith("core/") else str(file).split("/")[0]
    near = [t for t in names if t == room or t.startswith(room + "-")]
    order = ["hydraulics", "model", "analysis", "review", "design", "exchange", "report", "drawing", "network", "terrain", "app-document", "app-safety",
             "app-workbench", "app-site", "app-tools", "app"]
    rest = [t for o in order for t in names if (t == o or t.startswith(o + "-")) and (not t.startswith("app") or o.startswith("app"))]
    return list(dict.fromkeys(near + rest))


LEFT_OUT = {"house"}  # it looks for the text of planted faults, and would miss what was spoiled
USUAL = {}  # processor seconds a test program takes without a fault


def run_test(test):
    """The first failure of a test program, or nothing. What never ends is told by processor time: the machine may be busy."""
    limit = int(15 + 5 * USUAL.get(test, reach.seconds(test) if "--reach" in sys.argv else 40))
    used = lambda: sum(resource.getrusage(resource.RUSAGE_CHILDREN)[:2])
    before = used()
    try:
        tried = subprocess.run([COPY / f"build/release/bin/test-{test}"], cwd=COPY, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, timeout=1200,
                               preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_CPU, (limit, limit + 5)),
                               errors="replace", env={**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_RUNTIME_DIR": "/tmp"})
        fails = re.findall(r"FAIL!\s+: \w+::(\w+)", tried.stdout)
        if not fails and tried.returncode:
            fails = ["it never ends" if tried.returncode == -24 or used() - before >= limit else "it ends abnormally"]
    except subprocess.TimeoutExpired:
        fails = ["it waits for ever"]
    USUAL.setdefault(test, used() - before)
    return fails[0] if fails else ""


def part_of_run():
    return tuple(map(int, sys.argv[sys.argv.index("--part") + 1].split("/"))) if "--part" in sys.argv else (1, 1)


def random_main(count, seed):
    if "--keep" not in sys.argv:  # else the copy as it was built last: the tree may be half done
        prepare()
    wanted = [f"--target=test-{t}" for t in BESIDE_THE_WINDOW] + ["--target=calm-culvert-cli"] if "--core" in sys.argv else []
    built = run("cmake", "--build", "build/release", *wanted)
    if built.returncode:
        sys.exit(built.stdout[-3000:])
    by_reach, sound = "--reach" in sys.argv, {}
    part, parts = part_of_run()
    for test in [] if by_reach else tests_for("core/model/x"):
        if fails := run_test(test):
            print(f"left out: {test}, which fails without a fault: {fails}", flush=True)
            LEFT_OUT.add(test)
    tried, missed, same = 0, [], 0
    skipped = int(sys.argv[sys.argv.index("--skip") + 1]) if "--skip" in sys.argv else 0
    for at, (file, i, old, new) in enumerate(random_faults(count + skipped, seed)[skipped:]):
        if tried == count:
            break
        if at % parts != part - 1:
            continue
        path = COPY / "src" / file
        body = path.read_text()
        asked = reach.programs(file, i + 1, body) if by_reach else None
        if asked is None:
            asked = tests_for(file)
        else:
            if "--core" in sys.argv:
                asked = [t for t in asked if not t.startswith(("app", "house"))]
            asked += [t for t in tests_for(file) if not (reach.COUNTS / t).exists()]  # new since the lines were counted
            near = set(t for t in asked if t.startswith(room_of(file).removeprefix("core_")))
            asked.sort(key=lambda t: reach.seconds(t) * (0.2 if t in near else 1))
        lines = body.split("\n")
        lines[i] = new
        sound_code = machine_code(file)
        path.write_text("\n".join(lines))
        caught, compiles = "", run("cmake", "--build", "build/release", f"--target={room_of(file)}").returncode == 0
        # A fault of which the compiler makes the same code is none: the second condition of two that say the same, a value
        # nobody reads.
        unchanged = compiles and machine_code(file) == sound_code
        for test in [t for t in asked if t not in LEFT_OUT] if compiles and not unchanged else []:
            if caught := run_test(test):
                if by_reach and test not in sound:  # does it pass without the fault?
                    path.write_text(body)
                    run("cmake", "--build", "build/release", f"--target={room_of(file)}")
                    if run_test(test):
                        print(f"left out: {test}, which fails without a fault", flush=True)
                        LEFT_OUT.add(test)
                    else:
                        sound[test] = True
                    path.write_text("\n".join(lines))
                    run("cmake", "--build", "build/release", f"--target={room_of(file)}")
                    if test in LEFT_OUT:
                        caught = ""
                        continue
                caught = f"{test}: {caught}"
                break
        path.write_text(body)
        run("cmake", "--build", "build/release", f"--target={room_of(file)}")
        if unchanged:
            same += 1
            print(f"{'same':8} {file}:{i + 1}  {old.strip()}  ->  {new.strip()}", flush=True)
        if not compiles or unchanged:
            continue
        tried += 1
        print(f"{'caught' if caught else 'MISSED':8} {file}:{i + 1}  {old.strip()}  ->  {new.strip()}   {caught if asked else 'reached by no test'}", flush=True)
        if not caught:
            missed.append(f"{file}:{i + 1}")
    print(f"{tried - len(missed)} of {tried} random faults caught, seed {seed}: {(tried - len(missed)) * 100 // max(1, tried)} %; {same} more change nothing of the compiled code")
    sys.exit(0 if len(missed) * 100 <= 15 * tried else 1)


def main():
    if "--random" in sys.argv:
        number = lambda word, default: int(sys.argv[sys.argv.index(word) + 1]) if word in sys.argv else default
        random_main(number("--random", 60), number("--seed", 1))
    part, parts = part_of_run()
    wanted = [a for a in sys.argv[1:] if not a.startswith("-") and not re.fullmatch(r"\d+/\d+", a)]
    faults = [f for f in FAULTS if not wanted or f[0] in wanted]
    for f in FAULTS:
        place((ROOT / "src" / f[1]).read_text(), f)
    if "--list" in sys.argv:
        print("\n".join(f[0] for f in FAULTS))
        return
    if "--keep" not in sys.argv:
        prepare()
    faults = faults[part - 1::parts]
    (ROOT / "build" / f"planted-{part}-of-{parts}.json").unlink(missing_ok=True)  # of a run that was broken off
    tests = sorted({f[4] for f in faults})
    built = run("cmake", "--build", "build/release", *[f"--target=test-{t}" for t in tests])
    if built.returncode:
        sys.exit(built.stdout[-3000:])
    missed, rows = [], []
    for fault in faults:
        name, file, old, new, test = fault
        path = COPY / "src" / file
        body = path.read_text()
        path.write_text(pattern(old).sub(lambda _: new, body))
        header = file.endswith(".h")  # a header is read by the programs too
        built = run("cmake", "--build", "build/release", f"--target=test-{test}" if header else f"--target={room_of(file)}")
        caught = run_test(test)
        fails = [caught] if caught else []
        if built.returncode:
            sys.exit(f"mutate: '{name}' does not compile:\n{built.stdout[-2000:]}")
        path.write_text(body)
        if not header:
            run("cmake", "--build", "build/release", f"--target={room_of(file)}")
        rows.append((name, file, test, fails[0] if fails else "**nothing**"))
        print(f"{'caught' if fails else 'MISSED':8} {name}: {fails[0] if fails else ''}", flush=True)
        if not fails:
            missed.append(name)
    if not wanted:
        (ROOT / "build" / f"planted-{part}-of-{parts}.json").write_text(json.dumps(rows))
        every = [ROOT / "build" / f"planted-{k + 1}-of-{parts}.json" for k in range(parts)]
    if not wanted and all(f.exists() for f in every):  # the last part to end
        found = {row[0]: row for f in every for row in json.loads(f.read_text())}
        for f in every:
            f.unlink()
        rows = [found[f[0]] for f in FAULTS if f[0] in found]
        text = "# Planted faults\n\n`./dev mutate` plants each of these in a copy of the source and runs the tests; the suite must catch every one.\n\n| fault | file | tests | caught first by |\n|---|---|---|---|\n"
        text += "".join(f"| {n} | `{f}` | {t} | {c} |\n" for n, f, t, c in rows)
        told = ROOT / "docs/methods/mutation.md"
        before = told.read_text() if told.exists() else ""
        rest = before.find("\n## ")  # what was said of faults at random places stays
        told.write_text(text + (before[rest:] if rest >= 0 else ""))
    print(f"{len(faults) - len(missed)} of {len(faults)} faults caught")
    sys.exit(1 if missed else 0)


if __name__ == "__main__":
    main()
