// SPDX-License-Identifier: GPL-3.0-or-later
// The profile as a file at true scale: the display list of drawing/profile_sheet.h, written or painted.
#include <QBuffer>
#include <QPageSize>
#include <QPainter>
#include <QPdfWriter>
#include <QSettings>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_view.h"
#include "report/drawing_files.h"

namespace culvert::app {
namespace {

/// Paints a sheet; the painter's unit is a millimetre, the origin the upper left corner.
void paint_sheet(QPainter& p, const DisplayList& list, double height) {
    QFont font = lettering(8);
    font.setPointSizeF(7.1);  // 2.5 mm
    for (const Drawn& d : list) {
        const InkStyle s = style_of(d.ink);
        const QColor colour("#" + QString(s.colour));
        QPolygonF line;
        bool known = !d.points.empty();
        for (const Point& q : d.points) {
            known = known && std::isfinite(q.x) && std::isfinite(q.y);
            line << QPointF(q.x, height - q.y);
        }
        if (!known) continue;
        QPen pen(colour, s.width);
        if (s.dashed) pen.setDashPattern({2 / s.width, 1 / s.width});
        p.setPen(d.type == Drawn::Type::Area ? QPen(Qt::NoPen) : pen);
        p.setBrush(d.type == Drawn::Type::Area ? QBrush(colour) : QBrush());
        if (d.type == Drawn::Type::Text) {
            p.save();
            p.translate(line.front());
            p.scale(25.4 / 72, 25.4 / 72);  // letters are measured in points
            QFont points = font;
            points.setPixelSize(7);
            p.setFont(points);
            p.drawText(QPointF(0, 0), text(d.text));
            p.restore();
        } else if (d.type == Drawn::Type::Area) p.drawPolygon(line);
        else p.drawPolyline(line);
    }
}

}  // namespace

std::function<ProfileSheet()> ProfileView::sheet(double across, double up) {
    if (dirty_) rebuild();
    ProfileSheetOptions options;
    options.across = across;
    options.up = up;
    options.existing = existing_;
    options.finished = finished_;
    options.crossings = document_.clashes();
    for (const OtherGradeLine& o : others_) options.others.emplace_back(o.event, o.parts);
    const bool branches = QSettings().value("profile/branches", false).toBool();
    const auto r = document_.result();
    return [options = std::move(options), branches, r, net = r ? r->network : document_.network(),
            project = document_.project(), run = profile_, review = document_.review(),
            ground = document_.site().ground()]() mutable {
        std::vector<ProfileSheet> all{profile_sheet(project, run, r.get(), options)};
        if (!net || !branches) return std::move(all.front());
        options.others.clear();
        Ground existing, finished;
        existing.existing = ground.existing;
        finished.finished = ground.finished;
        for (const Profile& branch : branches_of(project, *net, r.get(), review.get(), run)) {
            options.existing = ground_along(project, branch, existing);
            options.finished = ground_along(project, branch, finished);
            all.push_back(profile_sheet(project, branch, r.get(), options));
        }
        return side_by_side(all);
    };
}

QString write_paper(const DisplayList& list, double width, double height, double letters, const QString& path) {
    const QString ending = path.section('.', -1).toLower();
    SaveOutcome saved{false, plain(path) + ": give the file the ending .pdf, .svg or .dxf"};
    if (ending == "pdf") {
        QBuffer pages;
        pages.open(QIODevice::WriteOnly);
        QPdfWriter writer(&pages);
        writer.setPageSize(QPageSize(QSizeF(width, height), QPageSize::Millimeter));
        writer.setPageMargins({0, 0, 0, 0});
        QPainter p(&writer);
        p.scale(writer.width() / width, writer.height() / height);
        paint_sheet(p, list, height);
        p.end();
        saved = save_text(pages.data().toStdString(), plain(path));
    } else if (drawing_form(plain(path)) != DrawingForm::None) {
        saved = save_drawing(list, width, height, plain(path), letters);
    }
    return saved.ok ? QString() : text(saved.error) + ".";
}

QString write_sheet(const ProfileSheet& sheet, const QString& path) {
    if (sheet.list.empty()) return "There is no profile to save: select a run that leads to an outfall.";
    return write_paper(sheet.list, sheet.width, sheet.height, 2.5, path);
}

}  // namespace culvert::app
