package dachshund.links.jdbc;

import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Where in a query the trouble is that a database names, by its own words. */
public final class ErrorPlace {

    private ErrorPlace() {}

    /**
     * @param sent     what stood in the statement for each parameter, as the server counted it
     * @param patterns of the engine: with a group {@code position}, a place counted from 1 in what it was sent; {@code near}, what
     *     stands there; or {@code word}, what it does not know
     */
    public static Optional<QueryProblem> in(
            String sentence, QueryText query, List<String> sent, List<Pattern> patterns) {
        for (Pattern pattern : patterns) {
            Matcher found = pattern.matcher(sentence);
            if (!found.find()) {
                continue;
            }
            String how = pattern.pattern();
            if (how.contains("(?<position>")) {
                int from = query.written(Integer.parseInt(found.group("position")) - 1, sent);
                String told = found.replaceFirst("").strip();
                return Optional.of(
                        new QueryProblem(told.endsWith(".") ? told : told + ".", from, wordEnd(query.written(), from)));
            }
            Optional<Integer> from = how.contains("(?<near>")
                    ? near(query.written(), found.group("near"))
                    : word(query.written(), found.group("word"));
            if (from.isPresent()) {
                return Optional.of(new QueryProblem(sentence, from.get(), wordEnd(query.written(), from.get())));
            }
        }
        return Optional.empty();
    }

    /** What it was sent has values where parameters stand, so no more than up to the first of these may be the same. */
    private static Optional<Integer> near(String written, String sent) {
        if (sent.matches("\\w+")) {
            return word(written, sent);
        }
        for (int length = Math.min(40, sent.length()); length > 0; length--) {
            int at = written.indexOf(sent.substring(0, length));
            if (at >= 0 && (length >= 3 || length == sent.length())) {
                return Optional.of(at);
            }
        }
        return Optional.empty();
    }

    private static Optional<Integer> word(String written, String word) {
        String last = word.substring(word.lastIndexOf('.') + 1);
        Matcher found = Pattern.compile("(?i)(?<![\\w:])" + Pattern.quote(last) + "(?!\\w)")
                .matcher(written);
        return found.find() ? Optional.of(found.start()) : Optional.empty();
    }

    private static int wordEnd(String written, int from) {
        int at = Math.min(from, written.length());
        if (at < written.length() && "\"`'".indexOf(written.charAt(at)) >= 0) {
            int closed = written.indexOf(written.charAt(at), at + 1);
            return closed < 0 ? written.length() : closed + 1;
        }
        while (at < written.length()
                && (Character.isLetterOrDigit(written.charAt(at)) || "_.$".indexOf(written.charAt(at)) >= 0)) {
            at++;
        }
        return at > from ? at : Math.min(written.length(), from + 1);
    }
}
