package dachshund.core.notice;

import dachshund.core.notice.Calm.Line;
import dachshund.core.notice.Calm.What;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.Comparator;
import java.util.List;

/**
 * What is sent at once, of whatever is due together.
 *
 * @param id    tells it from all others; stays the same if it has to be sent again
 * @param at    when it was written
 * @param lines alarms first
 */
public record Message(String id, Instant at, String site, String zone, List<Line> lines) {

    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss");
    private static final int LONGEST = 150;

    public Message {
        lines = lines.stream()
                .sorted(Comparator.comparing(Line::what)
                        .thenComparing(line -> !line.matter().sort().alarm())
                        .thenComparing(line -> line.matter().since()))
                .toList();
    }

    /** One line, without line ends: names come from outside. */
    public String subject() {
        if (lines.isEmpty()) {
            return one(site + ": this is a test");
        }
        Line first = lines.get(0);
        String more = lines.size() > 1 ? " and " + (lines.size() - 1) + " more" : "";
        return one(site + ": "
                + (first.what() == What.SOLVED ? "solved: " : first.what() == What.STILL ? "still: " : "")
                + (first.matter().thing().isEmpty() ? "" : first.matter().thing() + ": ")
                + first.matter().sort().words() + more);
    }

    private static String one(String text) {
        String line = text.replaceAll("[\\p{Cntrl}\\u2028\\u2029]+", " ");
        return line.length() > LONGEST ? line.substring(0, LONGEST - 1) + "…" : line;
    }

    public String text() {
        if (lines.isEmpty()) {
            return "This is a test: notices of " + site + " arrive here.\n";
        }
        ZoneId plant = ZoneId.of(zone);
        StringBuilder text = new StringBuilder();
        What last = null;
        for (Line line : lines) {
            if (line.what() != last) {
                text.append(last == null ? "" : "\n")
                        .append(
                                switch (line.what()) {
                                    case BEGAN -> "Needs somebody";
                                    case STILL -> "Still needs somebody";
                                    case SOLVED -> "Solved";
                                })
                        .append('\n');
                last = line.what();
            }
            text.append("- ")
                    .append(
                            line.matter().thing().isEmpty()
                                    ? ""
                                    : one(line.matter().thing()) + ": ")
                    .append(line.matter().sentence().strip())
                    .append("\n  since ")
                    .append(TIME.format(line.matter().since().atZone(plant)))
                    .append(' ')
                    .append(zone)
                    .append('\n');
        }
        return text.append("\nWritten ")
                .append(TIME.format(at.atZone(plant)))
                .append(" at ")
                .append(site)
                .append(".\n")
                .toString();
    }
}
