package dachshund.links.file;

import dachshund.core.layout.SqlType;
import dachshund.core.row.Conversion;
import dachshund.core.text.SafeCell;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Locale;

/** Cells as text of a file, and back. */
final class CellText {

    private static final DateTimeFormatter PLAIN =
            DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss", Locale.ROOT).withZone(ZoneOffset.UTC);

    private final FileSettings settings;

    CellText(FileSettings settings) {
        this.settings = settings;
    }

    /** Text that a spreadsheet does not take for a formula; numbers stay numbers. */
    String csv(Object cell, SqlType type) {
        if (cell == null) {
            return "";
        }
        if (cell instanceof Instant time) {
            return time(time, type);
        }
        if (cell instanceof Double || cell instanceof BigDecimal) {
            String number = Conversion.plain(cell);
            return settings.decimal() == '.' ? number : number.replace('.', settings.decimal());
        }
        return cell instanceof String text
                ? settings.guarded() ? SafeCell.outUnlessNumber(text) : text
                : cell.toString();
    }

    /** As a member of a JSON object: times are written as the settings say, everything else as JSON has it. */
    Object[] json(Object[] cells, SqlType[] types) {
        Object[] written = cells.clone();
        for (int i = 0; i < written.length; i++) {
            if (written[i] instanceof Instant time) {
                written[i] = time(time, types[i]);
            }
        }
        return written;
    }

    private String time(Instant time, SqlType type) {
        return switch (settings.times()) {
            case "plain" ->
                PLAIN.format(time)
                        + (type.size() == 0
                                ? ""
                                : "."
                                        + String.format(Locale.ROOT, "%09d", time.getNano())
                                                .substring(0, type.size()));
            case "plant" -> DateTimeFormatter.ISO_OFFSET_DATE_TIME.format(time.atZone(settings.zone()));
            default -> time.toString();
        };
    }

    /** The cell that a text stands for; the text itself where it stands for none of its type. */
    Object read(String text, SqlType type) {
        if (text == null || text.isEmpty()) {
            return null;
        }
        try {
            return switch (type.family()) {
                case BOOLEAN -> Boolean.valueOf(text);
                case SMALLINT, INTEGER, BIGINT -> Long.valueOf(text);
                case DOUBLE -> Double.valueOf(text.replace(settings.decimal(), '.'));
                case DECIMAL -> new BigDecimal(text.replace(settings.decimal(), '.'));
                case DATE -> LocalDate.parse(text);
                case TIME -> LocalTime.parse(text);
                case TIMESTAMP -> instant(text);
                default -> settings.guarded() ? SafeCell.in(text) : text;
            };
        } catch (java.time.DateTimeException | NumberFormatException writtenByAnother) {
            return text;
        }
    }

    private static Instant instant(String text) {
        return text.indexOf('T') < 0
                ? Instant.parse(text.replace(' ', 'T') + "Z")
                : java.time.OffsetDateTime.parse(text).toInstant();
    }
}
