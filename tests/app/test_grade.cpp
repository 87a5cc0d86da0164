// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <cmath>

#include "app/window/main_window.h"

using namespace culvert;
using namespace culvert::app;

/// Runs graded by typing and by mouse; findings accepted, filtered, compared; a water main imported and kept clear of.
class TestGradeWindow : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;
    QTemporaryDir folder_;

    Document& d() { return *document_; }
    GradePanel& grade() { return *window_->drawer()->grade(); }
    FindingsPage& findings() { return *window_->drawer()->findings_page(); }
    ProfileView& profile() { return *window_->profile(); }
    /// Keys that a mouse of an earlier test held would make selectRow() add or take away.
    void choose(int row) {
        findings().table()->selectionModel()->select(findings().model()->index(row, 0),
                                                     QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
    }
    void settle() { QTRY_VERIFY_WITH_TIMEOUT(d().current() && d().review() && !d().all_results().empty(), 20000); }
    /// A1 – A2 – A3 – A4 (outfall), 60 m each on a plane that falls by 1.2 %; one catchment, one event.
    void line() {
        Project p = new_project(UnitSystem::Si);
        for (int i = 0; i < 4; ++i) {
            Structure s;
            s.id = static_cast<std::uint64_t>(i) + 1;
            s.name = "A" + std::to_string(i + 1);
            s.kind = i < 3 ? StructureKind::Manhole : StructureKind::Outfall;
            s.x = 60 * i;
            s.y = 0;
            s.rim = 50 - 0.72 * i;
            p.structures.insert(s);
        }
        for (int i = 0; i < 3; ++i) {
            Pipe q;
            q.id = static_cast<std::uint64_t>(i) + 11;
            q.from = {static_cast<std::uint64_t>(i) + 1};
            q.to = {static_cast<std::uint64_t>(i) + 2};
            q.material = "concrete";
            q.size = 0.3;
            q.invert_from = 48 - 0.75 * i;
            q.invert_to = q.invert_from - 0.72;
            p.pipes.insert(q);
        }
        Catchment c;
        c.id = 21;
        c.name = "C1";
        c.structure = {1};
        c.area = 2000;
        c.coefficient = 0.6;
        c.time = 600;
        p.catchments.insert(c);
        RainEvent e;
        e.id = 5;
        e.name = "10 years";
        e.return_period = 10;
        e.role = EventRole::Minor;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        p.events.insert(e);
        d().set_project(p);
        window_->actions().find("stage.levels")->trigger();
        settle();
        d().select({{Kind::Structure, 2}});
        window_->grab();
    }
    double invert(std::uint64_t pipe, bool end) {
        const Pipe* p = d().project().pipes.find(pipe);
        return end ? p->invert_to : p->invert_from;
    }
    void type(int row, int column, const QString& words) {
        grade().table()->item(row, column)->setText(words);
        QCoreApplication::processEvents();
    }
    void drag(std::uint64_t pipe, const char* field, double to_level, Qt::KeyboardModifiers keys = {}) {
        profile().grab();
        const QPointF from = profile().handle_at({Kind::Pipe, pipe}, field);
        QVERIFY(!from.isNull());
        const double metres = (profile().profile().high - profile().profile().low),
                     now = std::string_view(field) == "invert_from" ? invert(pipe, false) : invert(pipe, true);
        const double pixels = profile().to_screen({0, 0}).y() - profile().to_screen({0, 1}).y();
        QVERIFY(metres > 0);
        const QPoint to(from.toPoint() + QPoint(0, static_cast<int>(std::round((now - to_level) * pixels))));
        QTest::mousePress(&profile(), Qt::LeftButton, keys, from.toPoint());
        const auto move = [&](QPoint at) {
            QMouseEvent e(QEvent::MouseMove, at, profile().mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
            QApplication::sendEvent(&profile(), &e);
        };
        move((from.toPoint() + to) / 2);
        move(to);
        QTest::mouseRelease(&profile(), Qt::LeftButton, keys, to);
    }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-grade");
    }
    void init() {
        QSettings().clear();
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
    }
    void cleanup() {
        window_.reset();
        document_.reset();
    }

    /// The run in the profile, two pins, one slope between them; shown first, taken as one Edit.
    void pins_are_typed_and_the_rest_follows() {
        line();
        const Project before = d().project();
        QTest::keyClick(window_.get(), Qt::Key_F8);
        QCOMPARE(grade().table()->rowCount(), 4);
        QCOMPARE(grade().table()->item(0, GradePanel::PinLeaving)->text(), QString("48.000"));
        type(0, GradePanel::PinLeaving, "47.86");
        type(3, GradePanel::PinArriving, "45.10");  // 2.76 m less two drops of 0.03 over 180 m: 1.5 %
        QVERIFY(d().has_pending() && window_->drawer()->preview()->active());
        for (int row = 0; row < 3; ++row)
            QVERIFY(grade().table()->item(row, GradePanel::Slope)->text().endsWith("1.50"));
        QVERIFY(d().committed() == before);
        window_->grab();
        window_->drawer()->preview()->accept();
        QCOMPARE(invert(12, false), 47.86 - 0.9 - 0.03);
        QCOMPARE(invert(13, true), 45.1);
        d().undo();
        QVERIFY(d().project() == before);
    }
    void ties_slopes_and_drops_are_typed() {
        line();
        window_->actions().find("view.grade")->trigger();
        type(1, GradePanel::PinLeaving, "rim - 2.10");
        QCOMPARE(invert(12, false), 49.28 - 2.1);
        type(1, GradePanel::PinSlope, "1:50");
        QVERIFY(std::abs(invert(12, false) - invert(12, true) - 1.2) < 1e-9);
        type(2, GradePanel::Drop, "0.10");
        QVERIFY(std::abs(invert(12, true) - invert(13, false) - 0.1) < 1e-9);
        type(2, GradePanel::PinLeaving, "somewhere");
        QVERIFY(grade().said().contains("is no level and no pipe"));
        QVERIFY(!d().has_pending());
        grade().clear_pins();
        grade().every()->setFocus();
        QTest::keyClicks(grade().every(), "cover 1.0");
        QTest::keyClick(grade().every(), Qt::Key_Return);
        QTRY_VERIFY(d().has_pending());
        QVERIFY(std::abs(invert(11, false) - (50 - 1.0 - 0.05 - 0.3)) < 1e-9);
    }
    void a_conflict_names_its_pins() {
        line();
        window_->actions().find("view.grade")->trigger();
        type(3, GradePanel::PinArriving, "48.20");
        QVERIFY2(grade().said().contains("does not fall") && grade().said().contains("A1 leaving 48.000 m") &&
                     grade().said().contains("A4 arriving 48.200 m"),
                 qPrintable(grade().said()));
    }
    void one_pipe_is_a_run_of_one() {
        line();
        d().select({{Kind::Pipe, 12}});
        window_->actions().find("view.grade")->trigger();
        QCOMPARE(grade().table()->rowCount(), 2);
        d().select({{Kind::Structure, 1}, {Kind::Structure, 3}});
        window_->actions().find("view.grade")->trigger();
        QCOMPARE(grade().table()->rowCount(), 3);
    }
    /// While a run is graded a drag is a pin, and stays a preview; without it, it is a level.
    void a_drag_in_the_profile_pins() {
        line();
        drag(12, "invert_from", 47.0);
        QVERIFY(!d().has_pending() && std::abs(invert(12, false) - 47.0) < 0.1);
        d().undo();
        window_->actions().find("view.grade")->trigger();
        window_->grab();
        drag(12, "invert_from", 46.9, Qt::AltModifier);
        QVERIFY(d().has_pending());
        QVERIFY(!grade().table()->item(1, GradePanel::PinLeaving)->text().isEmpty());
        QVERIFY(std::abs(invert(12, false) - 46.9) < 0.1);
        QVERIFY(std::abs((invert(12, false) - invert(12, true)) - (invert(13, false) - invert(13, true))) < 0.0021);
        window_->drawer()->preview()->dismiss();
        QCOMPARE(invert(12, false), 47.25);
    }
    void a_drag_catches_and_a_run_moves() {
        line();
        Editing low(d().project(), "Low");
        low.set(Kind::Pipe, 12, "invert_from", 46.6);
        d().commit(low.take());
        settle();
        drag(12, "invert_from", 47.284);  // the invert above lies at 47.28; a pixel is some centimetres
        const double caught = invert(12, false);
        QVERIFY2(std::abs(caught - 47.28) < 1e-9 || std::abs(caught - 47.31) < 1e-9 || std::abs(caught - 47.25) < 1e-9,
                 qPrintable(QString::number(caught)));
        QVERIFY(profile().readout().isEmpty());
        d().undo();
        d().undo();
        settle();
        drag(12, "invert_from", 47.0, Qt::ShiftModifier | Qt::AltModifier);
        QVERIFY(std::abs((invert(11, false) - 48) - (invert(13, true) - 45.78)) < 1e-9);
        QVERIFY(invert(11, false) < 47.85);
    }

    void a_finding_is_accepted_with_a_reason() {
        line();
        Editing e(d().project(), "Smaller");
        e.set(Kind::Structure, 1, "known_flow", 0.2);
        d().commit(e.take());
        settle();
        window_->actions().find("view.findings")->trigger();
        QTRY_VERIFY(findings().model()->beyond() > 0);
        QTRY_VERIFY2(findings().said().contains("new"), qPrintable(findings().said()));
        const int before = findings().model()->beyond();
        int row = -1;
        for (int i = 0; i < findings().model()->rowCount(); ++i)
            if (findings().model()->finding(i).check.rule == Rule::MostFlowRatio) row = i;
        QVERIFY(row >= 0);
        const ElementRef pipe = findings().model()->finding(row).element;
        choose(row);
        findings().ask_reason();
        auto* reason = findings().findChild<QLineEdit*>();
        for (QLineEdit* l : findings().findChildren<QLineEdit*>())
            if (l->accessibleName() == "Reason of the acceptance") reason = l;
        QTest::keyClick(reason, Qt::Key_Return);  // without a reason nothing is accepted
        QVERIFY(d().project().accepted_findings.empty() && findings().said().contains("reason"));
        QTest::keyClicks(reason, "replaced in phase 2");
        // Results that come while the reason is typed leave the rows chosen.
        emit d().results_changed({true, true, true});
        QCOMPARE(findings().table()->selectionModel()->selectedRows().size(), 1);
        QTest::keyClick(reason, Qt::Key_Return);
        QCOMPARE(d().project().accepted_findings.size(), std::size_t{1});
        settle();
        QTRY_COMPARE(findings().model()->beyond(), before - 1);
        QTRY_VERIFY2(findings().said().contains("gone"), qPrintable(findings().said()));
        // Filters: the accepted one alone, then what is beyond.
        FindingsFilter f;
        f.grade = FindingsFilter::Grade::Accepted;
        findings().model()->set_filter(f);
        QCOMPARE(findings().model()->rowCount(), 1);
        QVERIFY(findings().model()->finding(0).element == pipe);
        QVERIFY(findings().as_text('\t').contains("accepted: replaced in phase 2"));
        choose(0);
        findings().reopen_selected();
        settle();
        QTRY_COMPARE(findings().model()->beyond(), before);
        f.grade = FindingsFilter::Grade::All;
        f.words = "flow above";
        findings().model()->set_filter(f);
        QVERIFY(findings().model()->rowCount() > 0);
        for (int i = 0; i < findings().model()->rowCount(); ++i)
            QVERIFY(findings().model()->finding(i).check.rule == Rule::MostFlowRatio);
        f = {};
        f.selected = true;
        findings().model()->set_filter(f);
        d().select({{Kind::Pipe, 13}});
        for (int i = 0; i < findings().model()->rowCount(); ++i)
            QVERIFY(findings().model()->finding(i).element == (ElementRef{Kind::Pipe, 13}));
    }

    /// A water main from a file, its clash in findings, plan and profile; the remedy taken: gone.
    void a_water_main_is_imported_and_kept_clear_of() {
        line();
        const QString path = folder_.filePath("mains.csv");
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("name,kind,size,x,y,z\nW1,water main,200,90,-30,47.65\nW1,water main,200,90,30,47.65\n");
        file.close();
        window_->import_buried_lines(path);
        QTRY_VERIFY_WITH_TIMEOUT(d().has_pending(), 10000);
        window_->drawer()->preview()->accept();
        QCOMPARE(d().project().buried_lines.size(), std::size_t{1});
        settle();
        const auto clash = [&] {
            for (int i = 0; i < findings().model()->rowCount(); ++i)
                if (const Check& c = findings().model()->finding(i).check;
                    c.rule == Rule::Crossing && c.verdict == Verdict::Beyond)
                    return i;
            return -1;
        };
        QTRY_VERIFY_WITH_TIMEOUT(clash() >= 0, 10000);
        window_->actions().find("view.findings")->trigger();
        window_->grab();
        QVERIFY(QString::fromStdString(findings().model()->finding(clash()).detail).contains("buried line W1"));
        d().select({{Kind::Pipe, 12}});
        profile().grab();
        QCOMPARE(profile().crossings().size(), std::size_t{1});
        QCOMPARE(profile().crossings()[0].first, QString("W1"));
        QTRY_VERIFY_WITH_TIMEOUT(d().remedies_of(findings().model()->finding(clash())) &&
                                     !d().remedies_of(findings().model()->finding(clash()))->empty(),
                                 20000);
        window_->drawer()->try_remedy(clash());
        QVERIFY(d().has_pending());
        window_->drawer()->preview()->accept();
        settle();
        QTRY_COMPARE_WITH_TIMEOUT(clash(), -1, 10000);
        for (const Clash& c : d().clashes()) QVERIFY(c.verdict != Verdict::Beyond);
        // Its card, by a click on the plan.
        window_->plan()->zoom_to_all();
        const QPointF at = window_->plan()->to_screen({90, 20});
        QTest::mouseClick(window_->plan(), Qt::LeftButton, {}, at.toPoint());
        QCOMPARE(d().selected().kind, Kind::BuriedLine);
        QVERIFY(window_->card()->field(Kind::BuriedLine, "levels") && window_->card()->canvas("crossings"));
    }
    void a_buried_line_is_drawn() {
        line();
        window_->actions().find("tool.buried")->trigger();
        for (const QPointF at : {QPointF(30, -40), QPointF(30, 40)})
            QTest::mouseClick(window_->plan(), Qt::LeftButton, {}, window_->plan()->to_screen(at).toPoint());
        QTest::keyClick(window_->plan(), Qt::Key_Return);
        QCOMPARE(d().project().buried_lines.size(), std::size_t{1});
        QTRY_VERIFY_WITH_TIMEOUT(std::any_of(d().data_findings().begin(), d().data_findings().end(),
                                             [](const Finding& f) { return f.title == "crossing without a level"; }),
                                 10000);
        FieldEdit* levels = window_->card()->field(Kind::BuriedLine, "levels");
        QVERIFY(levels);
        levels->line()->setFocus();
        QTest::keyClicks(levels->line(), "45");
        QTest::keyClick(levels->line(), Qt::Key_Return);
        QCOMPARE(d().project().buried_lines.begin()->levels, std::vector<double>{45});
        QTRY_VERIFY_WITH_TIMEOUT(std::none_of(d().data_findings().begin(), d().data_findings().end(),
                                              [](const Finding& f) { return f.title == "crossing without a level"; }),
                                 10000);
    }
    void an_outfall_has_levels_by_event_and_a_channel() {
        line();
        d().select({{Kind::Structure, 4}});
        FieldEdit* level = window_->card()->field(Kind::OutfallLevel, "level");
        QVERIFY(level);
        level->line()->setFocus();
        QTest::keyClicks(level->line(), "46.5");
        QTest::keyClick(level->line(), Qt::Key_Return);
        QCOMPARE(d().project().outfall_levels.size(), std::size_t{1});
        settle();
        const int node = d().result()->network->node_of(StructureId{4});
        QCOMPARE(d().result()->nodes[static_cast<std::size_t>(node)].level.level, 46.5);
        FieldEdit* bed = window_->card()->field(Kind::Structure, "channel_width");
        bed->line()->setFocus();
        QTest::keyClicks(bed->line(), "0.5");
        QTest::keyClick(bed->line(), Qt::Key_Return);
        QTRY_VERIFY(window_->card()->field(Kind::Structure, "channel_slope"));
    }
    /// Each line is that event's own answer; after an edit all are of the new levels.
    void grade_lines_of_all_events_stand_in_the_profile() {
        line();
        Editing e(d().project(), "A rarer event");
        RainEvent rare = *d().project().events.find(5);
        rare.id = 6;
        rare.name = "100 years";
        rare.return_period = 100;
        rare.role = EventRole::Major;
        for (double& i : rare.intensities) i *= 4;
        e.insert(rare);
        d().commit(e.take());
        settle();
        d().select({{Kind::Pipe, 11}});
        profile().grab();
        QVERIFY(profile().other_events().empty());
        window_->actions().find("profile.events")->trigger();
        const auto highest = [&](EventId event) {
            const auto r = d().result(event);
            double level = -1e9;
            for (const ProfileStation& s :
                 profile_of(d().project(), *r->network, r.get(), nullptr, {Kind::Pipe, 11}).stations)
                if (!std::isnan(s.level)) level = std::max(level, s.level);
            return level;
        };
        const auto shown = [&] {
            profile().grab();
            double level = -1e9;
            for (const auto& o : profile().other_events())
                for (const auto& part : o.parts)
                    for (const Point& p : part) level = std::max(level, p.y);
            return level;
        };
        for (const int round : {0, 1}) {
            QTRY_COMPARE(profile().other_events().size(), (profile().grab(), 1u));
            QCOMPARE(profile().other_events()[0].event, std::string("100 years"));
            QCOMPARE(profile().other_events()[0].parts.size(), 3u);
            // The highest level in a barrel is not above that of the highest structure, and near it.
            QVERIFY(shown() <= highest({6}) + 1e-9 && shown() > highest({6}) - 0.5);
            QVERIFY(shown() > highest({5}) - 1e-9);
            const auto& names = profile().names();
            QVERIFY(std::any_of(names.begin(), names.end(), [](const auto& n) { return n.first == "100 years"; }));
            if (round) break;
            Editing lower(d().project(), "Lower");
            for (const std::uint64_t id : {11, 12, 13})
                for (const char* end : {"invert_from", "invert_to"})
                    lower.set(Kind::Pipe, id, end,
                              (end[7] == 'f' ? d().project().pipes.find(id)->invert_from
                                             : d().project().pipes.find(id)->invert_to) -
                                  1);
            const double before = shown();
            // While the viewed event's answer is there and the others' are not, theirs are not drawn.
            int apart = 0;
            bool mixed = false;
            const auto watch = connect(&d(), &Document::results_changed, this, [&] {
                const auto one = d().result({5}), other = d().result({6});
                if (!one || !other || one->revision == other->revision) return;
                ++apart;
                profile().grab();
                mixed = mixed || (d().result() == one && !profile().other_events().empty());
            });
            d().commit(lower.take());
            QTRY_VERIFY(d().current() && d().result({6})->revision == d().result({5})->revision);
            disconnect(watch);
            QVERIFY(!mixed);
            qInfo("apart %d times", apart);
            settle();
            QTRY_VERIFY(shown() < before - 0.3);
        }
        window_->actions().find("profile.events")->trigger();
        profile().grab();
        QVERIFY(profile().other_events().empty());
    }
    void the_profile_is_saved_as_pdf_svg_and_dxf() {
        line();
        settle();
        d().select({{Kind::Pipe, 11}});
        for (const auto& [ending, head] :
             {std::pair<const char*, QByteArray>{"pdf", "%PDF"}, {"svg", "<?xml"}, {"DXF", "999"}}) {
            const QString path = folder_.path() + "/run." + ending;
            window_->save_profile_as(path);
            QTRY_VERIFY2(window_->notice()->said().contains("Saved as " + path), qPrintable(window_->notice()->said()));
            QFile f(path);
            QVERIFY(f.open(QIODevice::ReadOnly));
            const QByteArray bytes = f.readAll();
            QVERIFY(bytes.startsWith(head));
            if (head == "%PDF") {  // 180 m at 1 : 500 are 360 mm, and 42 mm of margins: 402 mm are 1139.5 points
                const auto box = QRegularExpression("/MediaBox \\[0 0 ([0-9.]+) ").match(QString::fromLatin1(bytes));
                QVERIFY(std::abs(box.captured(1).toDouble() - 402 / 25.4 * 72) < 1.5);
            }
            if (head == "<?xml") {
                QVERIFY(bytes.contains(">A1</text>") && bytes.contains(">A4</text>"));
                QVERIFY(bytes.contains("width=\"402.0000mm\""));
            }
        }
        QVERIFY(write_sheet(profile().sheet(500, 50)(), folder_.path() + "/run.txt").contains(".pdf, .svg or .dxf"));
        window_->save_profile_as("/no/such/folder/run.pdf");
        QTRY_VERIFY(window_->notice()->said().contains("does not exist"));
        window_->actions().find("profile.copy")->trigger();
        QVERIFY(!QApplication::clipboard()->pixmap().isNull());
    }
};

QTEST_MAIN(TestGradeWindow)
#include "test_grade.moc"
