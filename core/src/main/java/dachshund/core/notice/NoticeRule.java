package dachshund.core.notice;

import dachshund.core.source.SettingField;
import java.time.LocalTime;
import java.time.format.DateTimeParseException;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Who is told of what.
 *
 * @param id         eight hexadecimal digits
 * @param to         addresses with commas between, or the address of a webhook
 * @param sorts      of matters; all where it is empty
 * @param alarmsOnly only what is lost unless somebody acts
 * @param things     names, a star for any letters; all where it is empty
 * @param folders    and what lies below them; all where it is empty
 * @param labels     one of which the thing has; all where it is empty
 * @param quietFrom  plant time, as 22:00; empty for no quiet hours
 * @param quietTo    when they end; before their begin where they go over midnight
 * @param alarmsWake whether alarms are told in quiet hours, too
 */
public record NoticeRule(
        String id,
        String name,
        Way way,
        String to,
        Set<Sort> sorts,
        boolean alarmsOnly,
        List<String> things,
        List<String> folders,
        List<String> labels,
        String quietFrom,
        String quietTo,
        boolean alarmsWake) {

    private static final Pattern MAILBOX = Pattern.compile("[^\\s@,<>\"]+@[^\\s@,<>\"]+");
    private static final Pattern WEBHOOK = Pattern.compile(
            "(?i)https?://([\\p{Alnum}._-]+|\\[[0-9a-f:.]+])(:(?<port>\\d{1,5}))?([/?][\\x21-\\x7e&&[^<>\"\\\\^`{|}]]*)?");
    private static final int MOST_TO = 20;

    /** By which way. */
    public enum Way {
        MAIL("by mail"),
        WEBHOOK("by webhook");

        private final String words;

        Way(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    public NoticeRule {
        sorts = Set.copyOf(sorts);
        things = List.copyOf(things);
        folders = List.copyOf(folders);
        labels = List.copyOf(labels);
    }

    /** Each address by itself. */
    public List<String> recipients() {
        return way == Way.WEBHOOK
                ? List.of(to.strip())
                : Arrays.stream(to.split(","))
                        .map(String::strip)
                        .filter(each -> !each.isEmpty())
                        .toList();
    }

    /** A sentence for each part that is not fine, by its name. */
    public Map<String, String> problems() {
        Map<String, String> problems = new TreeMap<>();
        if (name.isBlank() || name.length() > 120) {
            problems.put("name", "A name is needed, of up to 120 characters.");
        }
        if (way == Way.MAIL) {
            List<String> all = recipients();
            if (all.isEmpty() || all.size() > MOST_TO) {
                problems.put("to", "From 1 to " + MOST_TO + " addresses, with commas between.");
            }
            all.stream()
                    .filter(each -> !MAILBOX.matcher(each).matches())
                    .findFirst()
                    .ifPresent(each -> problems.put("to", "\"" + each + "\" is no mail address."));
        } else if (!webhook(to.strip())) {
            problems.put("to", "A webhook is an address like https://chat.example.org/hook.");
        }
        if (quietFrom.isBlank() != quietTo.isBlank()) {
            problems.put("quiet", "Quiet hours have a begin and an end, or neither.");
        } else if (!quietFrom.isBlank()) {
            try {
                if (LocalTime.parse(quietFrom).equals(LocalTime.parse(quietTo))) {
                    problems.put("quiet", "Quiet hours that end when they begin would never end.");
                }
            } catch (DateTimeParseException unread) {
                problems.put("quiet", "Write quiet hours like 22:00 and 06:00.");
            }
        }
        return problems;
    }

    private static boolean webhook(String text) {
        Matcher parts = WEBHOOK.matcher(text);
        return parts.matches()
                && (parts.group("port") == null
                        || SettingField.port(parts.group("port")).isEmpty());
    }

    /** Whether this rule is about the matter. */
    public boolean takes(Matter matter) {
        return (sorts.isEmpty() || sorts.contains(matter.sort()))
                && (!alarmsOnly || matter.sort().alarm())
                && (things.isEmpty() || things.stream().anyMatch(each -> like(matter.thing(), each)))
                && (folders.isEmpty() || folders.stream().anyMatch(each -> within(matter.folder(), each)))
                && (labels.isEmpty() || matter.labels().stream().anyMatch(labels::contains));
    }

    private static boolean like(String name, String pattern) {
        String regex = Arrays.stream(pattern.strip().split("\\*", -1))
                .map(Pattern::quote)
                .reduce((one, next) -> one + ".*" + next)
                .orElse("");
        return Pattern.compile(regex, Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE)
                .matcher(name)
                .matches();
    }

    private static boolean within(String folder, String wanted) {
        String is = folder.toLowerCase(Locale.ROOT);
        String of = wanted.strip().toLowerCase(Locale.ROOT);
        return is.equals(of) || is.startsWith(of + "/");
    }

    /** Whether the matter is not told at this time of the day. */
    public boolean quiet(Matter matter, LocalTime at) {
        if (quietFrom.isBlank() || (alarmsWake && matter.sort().alarm())) {
            return false;
        }
        LocalTime from = LocalTime.parse(quietFrom);
        LocalTime to = LocalTime.parse(quietTo);
        boolean behind = !at.isBefore(from);
        boolean before = at.isBefore(to);
        return from.isBefore(to) ? behind && before : behind || before;
    }
}
