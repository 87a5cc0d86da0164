// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <random>

#include "core/model/edit.h"

namespace culvert::testing {

/// A head of pipes A1..A4 into a pond P, two structures C1, C2 below it, an outfall E; hydrographs by the NRCS unit
/// hydrograph, two events. Without a pond the pipes run through.
struct PondSite {
    Project project;
    StructureId head, pond, below, end;
    std::uint64_t pond_row = 0, low = 0, high = 0, spill = 0;

    explicit PondSite(bool with_pond = true, int seed = 0) : project(new_project(UnitSystem::Si)) {
        std::mt19937 gen(static_cast<unsigned>(seed));
        std::uniform_real_distribution<double> u(0, 1);
        const auto vary = [&](double v) { return seed ? v * (0.6 + 0.8 * u(gen)) : v; };
        Editing e(project, "site");
        const auto structure = [&](const char* name, StructureKind kind, double x, double rim) {
            Structure s;
            s.id = ++next_;
            s.name = name;
            s.kind = kind;
            s.x = x;
            s.y = 0;
            s.rim = rim;
            e.insert(s);
            return StructureId{s.id};
        };
        const auto pipe = [&](StructureId a, StructureId b, double up, double down, double size) {
            e.insert(pipe_of(++next_, a, b, up, down, size));
        };
        head = structure("A1", StructureKind::Inlet, 0, 46);
        const StructureId a2 = structure("A2", StructureKind::Inlet, 80, 45.2),
                          a3 = structure("A3", StructureKind::Inlet, 160, 44.4);
        pond = structure("P", with_pond ? StructureKind::Pond : StructureKind::Manhole, 240, 43);
        below = structure("C1", StructureKind::Manhole, 290, 42.5);
        const StructureId c2 = structure("C2", StructureKind::Manhole, 350, 42);
        end = structure("E", StructureKind::Outfall, 410, 41.5);
        pipe(head, a2, 44.0, 43.0, 0.45);
        pipe(a2, a3, 42.9, 42.1, 0.6);
        pipe(a3, pond, 42.0, 41.4, 0.75);
        if (!with_pond) pipe(pond, below, 40.0, 39.8, 0.75);
        pipe(below, c2, 39.8, 39.5, 0.75);
        pipe(c2, end, 39.5, 39.2, 0.75);
        int n = 0;
        for (const StructureId s : {head, a2, a3, pond}) {
            Catchment c;
            c.id = ++next_;
            c.name = "area " + std::to_string(++n);
            c.structure = s;
            c.area = vary(8000);
            c.coefficient = 0.6;
            c.time = vary(600);
            c.curve_number = 80;
            e.insert(c);
        }
        for (const auto& [name, years, factor] : {std::tuple{"2 years", 2.0, 0.6}, {"50 years", 50.0, 1.3}}) {
            RainEvent r;
            r.id = ++next_;
            r.name = name;
            r.return_period = years;
            r.role = years < 10 ? EventRole::Minor : EventRole::Major;
            for (const double m : {5.0, 10.0, 20.0, 40.0, 60.0, 120.0, 360.0, 720.0}) {
                r.durations.push_back(m * 60);
                r.intensities.push_back(factor * 1450 / std::pow(m + 12, 0.82) / 3.6e6);
            }
            e.insert(r);
        }
        e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::UnitHydrograph);
        if (with_pond) {
            Pond p;
            p.id = pond_row = ++next_;
            p.name = "pond";
            p.structure = pond;
            p.storage_by = StorageBy::Basin;
            p.bottom = 40;
            p.length = vary(30);
            p.width = vary(16);
            p.depth = 2.6;
            p.crest = 42.6;
            e.insert(p);
            PondOutlet o;
            o.id = low = ++next_;
            o.name = "low";
            o.structure = pond;
            o.to = below;
            o.level = 40;
            o.size = 0.15;
            e.insert(o);
            o.id = high = ++next_;
            o.name = "high";
            o.kind = OutletKind::BoxOrifice;
            o.level = 41;
            o.size = 0.2;
            o.width = 0.3;
            e.insert(o);
            o = {};
            o.id = spill = ++next_;
            o.name = "spill";
            o.structure = pond;
            o.kind = OutletKind::BroadWeir;
            o.level = 42.2;
            o.width = 4;
            o.overflow = true;
            e.insert(o);
            for (const auto& [event, flow] : {std::pair{0, 0.04}, {1, 0.16}}) {
                Release r;
                r.id = ++next_;
                r.structure = pond;
                r.event = {events_in_order(e.now())[static_cast<std::size_t>(event)]->id};
                r.flow = flow;
                e.insert(r);
            }
        }
        apply(project, e.take());
    }
    void set(Kind kind, std::uint64_t id, std::string_view key, Value v) {
        Editing e(project, "set");
        e.set(kind, id, key, std::move(v));
        apply(project, e.take());
    }
    template <class Row>
    void insert(const Row& row) {
        Editing e(project, "insert");
        e.insert(row);
        apply(project, e.take());
    }
    void remove(Kind kind, std::uint64_t id) {
        Editing e(project, "remove");
        e.remove(kind, id);
        apply(project, e.take());
    }
    /// Every event an even storm.
    void uniform(double depth, double length) {
        for (const RainEvent* r : events_in_order(project)) {
            const std::uint64_t id = r->id;
            set(Kind::Event, id, "given", static_cast<int>(RainGiven::Uniform));
            set(Kind::Event, id, "depth", depth);
            set(Kind::Event, id, "storm_length", length);
        }
    }
    /// C1 becomes a pond as well, with an outlet to C2.
    void second_pond() {
        Editing e(project, "second pond");
        e.set(Kind::Structure, below.value, "kind", StructureKind::Pond);
        for (const Pipe& p : project.pipes)
            if (p.from == below) e.remove(Kind::Pipe, p.id);
        StructureId c2;
        for (const Structure& s : project.structures)
            if (s.name == "C2") c2 = {s.id};
        Pond p;
        p.id = ++next_;
        p.name = "lower pond";
        p.structure = below;
        p.storage_by = StorageBy::Tank;
        p.bottom = 39.9;
        p.length = 20;
        p.width = 12;
        p.depth = 2.5;
        e.insert(p);
        PondOutlet o;
        o.id = ++next_;
        o.name = "lower low";
        o.structure = below;
        o.to = c2;
        o.level = 39.9;
        o.size = 0.12;
        e.insert(o);
        o.id = ++next_;
        o.name = "lower spill";
        o.kind = OutletKind::SharpWeir;
        o.level = 41.6;
        o.width = 3;
        e.insert(o);
        apply(project, e.take());
    }

    static Pipe pipe_of(std::uint64_t id, StructureId from, StructureId to, double up, double down, double size) {
        Pipe p;
        p.id = id;
        p.from = from;
        p.to = to;
        p.size = size;
        p.invert_from = up;
        p.invert_to = down;
        return p;
    }

  private:
    std::uint64_t next_ = 1000;
};

}  // namespace culvert::testing
