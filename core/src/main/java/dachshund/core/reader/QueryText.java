package dachshund.core.reader;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;

/**
 * A query as somebody wrote it: SQL of any engine with named parameters ({@code :lot}). They are bound, never pasted. What stands
 * in texts, names and comments is no parameter (ISO/IEC 9075-2, lexical elements; backquotes of MariaDB, dollar quotes and
 * {@code ::} of PostgreSQL by their documentation).
 *
 * @param statement with a question mark for each parameter
 * @param names     of the parameters, in the order of their question marks; one may stand there several times
 * @param places    of the parameters in what was written
 * @param marks     the places of their question marks in the statement
 */
public record QueryText(
        String written, String statement, List<String> names, List<Integer> places, List<Integer> marks) {

    /** What a query begins with. Whether it may write is for the database to say: it is asked in a transaction that cannot. */
    private static final Set<String> FIRST = Set.of("SELECT", "WITH", "VALUES", "SHOW", "EXPLAIN", "DESCRIBE", "DESC");

    /** Reads, or so it looks, but writes files on the server, or locks rows that others want to write. */
    private static final List<String> NOT = List.of(
            "INTO OUTFILE",
            "INTO DUMPFILE",
            "FOR UPDATE",
            "FOR NO KEY UPDATE",
            "FOR SHARE",
            "FOR KEY SHARE",
            "LOCK IN SHARE MODE");

    /** What changes something; nothing that ends a transaction by itself. */
    private static final Set<String> CHANGES = Set.of("INSERT", "UPDATE", "DELETE", "REPLACE", "MERGE", "WITH", "CALL");

    private enum Use {
        QUERY,
        LOOK_UP,
        CHANGE
    }

    /** @throws QueryProblem where it is no query, or more than one, or would hold others up */
    public static QueryText of(String written) throws QueryProblem {
        return new Scan(written, Use.QUERY).read();
    }

    /** A query within a transaction that writes: it may lock what it reads. */
    public static QueryText lookUp(String written) throws QueryProblem {
        return new Scan(written, Use.LOOK_UP).read();
    }

    /** A statement that changes rows, or calls a procedure. */
    public static QueryText change(String written) throws QueryProblem {
        return new Scan(written, Use.CHANGE).read();
    }

    /**
     * The statement with something else where parameters stand.
     *
     * @param instead for each of them, in their order
     */
    public String with(List<String> instead) {
        StringBuilder all = new StringBuilder();
        int from = 0;
        for (int i = 0; i < marks.size(); i++) {
            all.append(statement, from, marks.get(i)).append(instead.get(i));
            from = marks.get(i) + 1;
        }
        return all.append(statement.substring(from)).toString();
    }

    /**
     * The place in what was written of one in the statement.
     *
     * @param instead what stands there for each parameter
     */
    public int written(int inStatement, List<String> instead) {
        int passed = 0;
        int mark = 0;
        int at = 0;
        while (at < written.length() && passed < inStatement) {
            if (mark < places.size() && at == places.get(mark)) {
                passed += instead.get(mark).length();
                if (passed > inStatement) {
                    break;
                }
                at += 1 + names.get(mark).length();
                mark++;
            } else {
                at++;
                passed++;
            }
        }
        return Math.min(at, written.length());
    }

    /** Reads once from the beginning to the end. */
    private static final class Scan {

        private final String text;
        private final Use use;
        private final StringBuilder statement = new StringBuilder();
        private final List<String> names = new ArrayList<>();
        private final List<Integer> places = new ArrayList<>();
        private final List<Integer> marks = new ArrayList<>();
        /** Words outside texts, names and comments, with where they begin. */
        private final List<String> words = new ArrayList<>();

        private final List<Integer> begins = new ArrayList<>();
        private int at;

        Scan(String text, Use use) {
            this.text = text;
            this.use = use;
        }

        QueryText read() throws QueryProblem {
            int ended = -1;
            while (at < text.length()) {
                int from = at;
                if (skip()) {
                    statement.append(text, from, at);
                    continue;
                }
                char here = text.charAt(at);
                if (ended >= 0 && !Character.isWhitespace(here) && here != ';') {
                    throw new QueryProblem(
                            "A query is one statement; behind the semicolon begins another.", at, text.length());
                }
                if (here == ';') {
                    ended = ended < 0 ? at : ended;
                    at++;
                } else if (here == '?') {
                    throw new QueryProblem(
                            "A question mark means nothing here. Write a parameter with a name, such as :lot.",
                            at,
                            at + 1);
                } else if (Character.isLetter(here) || here == '_') {
                    word();
                } else if (here == ':'
                        && at + 1 < text.length()
                        && isName(text.charAt(at + 1))
                        && !Character.isDigit(text.charAt(at + 1))) {
                    parameter();
                } else if (text.startsWith("::", at) || text.startsWith(":=", at)) {
                    statement.append(text, at, at + 2);
                    at += 2;
                } else {
                    statement.append(here);
                    at++;
                }
            }
            check();
            int before =
                    statement.length() - statement.toString().stripLeading().length();
            return new QueryText(
                    text,
                    statement.toString().strip(),
                    List.copyOf(names),
                    List.copyOf(places),
                    marks.stream().map(each -> each - before).toList());
        }

        private static boolean isName(char letter) {
            return Character.isLetterOrDigit(letter) || letter == '_';
        }

        private void word() {
            int from = at;
            while (at < text.length() && (isName(text.charAt(at)) || text.charAt(at) == '$')) {
                at++;
            }
            statement.append(text, from, at);
            words.add(text.substring(from, at).toUpperCase(Locale.ROOT));
            begins.add(from);
        }

        private void parameter() {
            places.add(at);
            int from = ++at;
            while (at < text.length() && isName(text.charAt(at))) {
                at++;
            }
            names.add(text.substring(from, at));
            marks.add(statement.length());
            statement.append('?');
        }

        /** Goes over a text, a name in quotes or a comment, if one begins here. */
        private boolean skip() throws QueryProblem {
            char here = text.charAt(at);
            if (here == '\'' || here == '"' || here == '`') {
                quoted(here);
                return true;
            }
            // A number sign is an operator of PostgreSQL, and begins a comment of MariaDB.
            if (text.startsWith("--", at)
                    || here == '#' && text.substring(0, at).endsWith("\n")) {
                int end = text.indexOf('\n', at);
                at = end < 0 ? text.length() : end;
                return true;
            }
            if (text.startsWith("/*", at)) {
                if (text.startsWith("/*!", at) || text.startsWith("/*M!", at)) {
                    throw new QueryProblem(
                            "A comment that is carried out is not taken. Write what it does.", at, at + 3);
                }
                at = end(text.indexOf("*/", at + 2), "A comment begins here and does not end.") + 2;
                return true;
            }
            if (here == '$') {
                int tag = at + 1;
                while (tag < text.length() && isName(text.charAt(tag))) {
                    tag++;
                }
                if (tag < text.length() && text.charAt(tag) == '$') {
                    String quote = text.substring(at, tag + 1);
                    at = end(text.indexOf(quote, tag + 1), "A text begins here and does not end.") + quote.length();
                    return true;
                }
            }
            return false;
        }

        /** Two quotes are one of the text; a backslash before one is taken for what it is in MariaDB. */
        private void quoted(char quote) throws QueryProblem {
            int from = at++;
            while (at < text.length()) {
                char here = text.charAt(at);
                if (here == '\\' && quote == '\'') {
                    at++;
                } else if (here == quote) {
                    if (at + 1 < text.length() && text.charAt(at + 1) == quote) {
                        at++;
                    } else {
                        at++;
                        return;
                    }
                }
                at++;
            }
            at = from;
            end(-1, quote == '\'' ? "A text begins here and does not end." : "A name begins here and does not end.");
        }

        private int end(int found, String sentence) throws QueryProblem {
            if (found < 0) {
                throw new QueryProblem(sentence, at, text.length());
            }
            return found;
        }

        private void checkChange() throws QueryProblem {
            if (words.isEmpty()) {
                throw new QueryProblem(
                        "There is no statement yet. Write one that begins with INSERT, UPDATE or DELETE.");
            }
            if (!CHANGES.contains(words.get(0))) {
                throw new QueryProblem(
                        "A statement of a step begins with INSERT, UPDATE, DELETE or CALL, not with " + words.get(0)
                                + ": what makes tables or ends transactions is not for a step.",
                        begins.get(0),
                        begins.get(0) + words.get(0).length());
            }
        }

        private void check() throws QueryProblem {
            if (use == Use.CHANGE) {
                checkChange();
                return;
            }
            if (words.isEmpty()) {
                throw new QueryProblem("There is no query yet. Write one that begins with SELECT.");
            }
            if (!FIRST.contains(words.get(0))) {
                throw new QueryProblem(
                        "A query begins with SELECT or WITH, not with " + words.get(0)
                                + ": it reads, and never writes.",
                        begins.get(0),
                        begins.get(0) + words.get(0).length());
            }
            for (String not : NOT) {
                if (use == Use.LOOK_UP && !not.startsWith("INTO")) {
                    continue;
                }
                List<String> these = List.of(not.split(" "));
                for (int i = 0; i + these.size() <= words.size(); i++) {
                    if (words.subList(i, i + these.size()).equals(these)) {
                        int last = i + these.size() - 1;
                        throw new QueryProblem(
                                not + " is not for a query: "
                                        + (not.startsWith("INTO")
                                                ? "it would write a file."
                                                : "it would hold up whoever writes there."),
                                begins.get(i),
                                begins.get(last) + words.get(last).length());
                    }
                }
            }
        }
    }
}
