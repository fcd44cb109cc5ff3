package dachshund.links.mariadb;

import java.util.Locale;
import java.util.Optional;
import java.util.regex.Pattern;

/**
 * What a query says outside texts, names in quotes and comments, as this engine reads it (MariaDB documentation, "String Literals",
 * "Comment Syntax"): a text may be in double quotes, two dashes begin a comment only before a blank, a number sign begins one
 * anywhere. Whoever reads it otherwise may take for a text what the engine carries out.
 */
final class HiddenWords {

    private static final Pattern FILE = Pattern.compile("\\bINTO\\s+(OUTFILE|DUMPFILE)\\b");
    private static final Pattern LOCK = Pattern.compile("\\bFOR\\s+UPDATE\\b|\\bLOCK\\s+IN\\s+SHARE\\s+MODE\\b");
    private static final Pattern CARRIED_OUT = Pattern.compile("/\\*M?!");

    private HiddenWords() {}

    /** Why a query is not asked, in a sentence, though the transaction that it is asked in cannot write. */
    static Optional<String> refusal(String sql) {
        // Whether a backslash hides a quote is a setting of the server; it is refused where either reading says so.
        String either = bare(sql, true) + "\n;\n" + bare(sql, false);
        if (CARRIED_OUT.matcher(either).find()) {
            return Optional.of("A comment that is carried out is not taken. Write what it does.");
        }
        if (FILE.matcher(either).find()) {
            return Optional.of("INTO OUTFILE is not for a query: it would write a file on the server.");
        }
        if (LOCK.matcher(either).find()) {
            return Optional.of("FOR UPDATE is not for a query: it would hold up whoever writes there.");
        }
        return Optional.empty();
    }

    private static String bare(String sql, boolean backslash) {
        StringBuilder bare = new StringBuilder(sql.length());
        int at = 0;
        while (at < sql.length()) {
            char here = sql.charAt(at);
            if (here == '\'' || here == '"' || here == '`') {
                at = quoted(sql, at, backslash && here != '`');
                bare.append(' ');
            } else if (here == '#' || dashes(sql, at)) {
                int end = sql.indexOf('\n', at);
                at = end < 0 ? sql.length() : end;
            } else if (sql.startsWith("/*", at)
                    && !CARRIED_OUT.matcher(sql).region(at, sql.length()).lookingAt()) {
                int end = sql.indexOf("*/", at + 2);
                at = end < 0 ? sql.length() : end + 2;
                bare.append(' ');
            } else {
                bare.append(here);
                at++;
            }
        }
        return bare.toString().toUpperCase(Locale.ROOT);
    }

    private static boolean dashes(String sql, int at) {
        return sql.startsWith("--", at) && (at + 2 == sql.length() || sql.charAt(at + 2) <= ' ');
    }

    /** The place behind the quote that ends it; two quotes are one of the text. */
    private static int quoted(String sql, int from, boolean backslash) {
        char quote = sql.charAt(from);
        int at = from + 1;
        while (at < sql.length()) {
            char here = sql.charAt(at);
            if (backslash && here == '\\') {
                at += 2;
            } else if (here != quote) {
                at++;
            } else if (at + 1 < sql.length() && sql.charAt(at + 1) == quote) {
                at += 2;
            } else {
                return at + 1;
            }
        }
        return sql.length();
    }
}
