"""PDF (through ReportLab): filled paths on a page as large as the drawing's frame."""

import io

from reportlab.pdfgen.canvas import FILL_EVEN_ODD, FILL_NON_ZERO, Canvas

from zeichen.core.formats.eps import CAPS, JOINS, POINTS_PER_MM, rgb_shares
from zeichen.core.geometry.drawing import Drawing


def write_pdf(drawing: Drawing, *, title: str) -> bytes:
    """Return a one-page PDF of a drawing in mm. The same drawing always gives the same bytes."""
    out = io.BytesIO()
    size = (drawing.width * POINTS_PER_MM, drawing.height * POINTS_PER_MM)
    canvas = Canvas(out, pagesize=size, invariant=1, pageCompression=1)
    canvas.setTitle(title)
    canvas.setCreator("Zeichen")
    canvas.transform(POINTS_PER_MM, 0, 0, -POINTS_PER_MM, 0, size[1])
    for shape in drawing.shapes:
        path = canvas.beginPath()
        for run in shape.paths:
            if not len(run.segments):
                continue
            path.moveTo(*run.segments[0, 0].tolist())
            for segment in run.segments.tolist():
                path.curveTo(*segment[1], *segment[2], *segment[3])
            if run.closed:
                path.close()
        drawn_line = shape.stroke_width is not None
        canvas.setFillColorRGB(*rgb_shares(shape.fill))
        canvas.setStrokeColorRGB(*rgb_shares(shape.fill))
        if shape.stroke_width is not None:
            canvas.setLineWidth(shape.stroke_width)
            canvas.setLineCap(CAPS[shape.cap])
            canvas.setLineJoin(JOINS[shape.join])
            canvas.setMiterLimit(shape.mitre_limit)
        rule = FILL_EVEN_ODD if shape.fill_rule == "evenodd" else FILL_NON_ZERO
        canvas.drawPath(path, stroke=int(drawn_line), fill=int(not drawn_line), fillMode=rule)
    canvas.showPage()
    canvas.save()
    return out.getvalue()
