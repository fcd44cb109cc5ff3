package dachshund.core.lineup;

import dachshund.core.layout.Layout;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/** What a line calls its tables and files, where its original calls them after another machine. */
final class OwnNames {

    private OwnNames() {}

    /**
     * A table of its own, unless the name is a pattern that tells machines apart already. Never the original's.
     *
     * @param names   the original's machine and the line's
     * @param machine stands at the end where the original's machine is not in the name
     */
    static String table(String table, Map<String, String> names, String machine) {
        if (table.contains("{equipment}") || table.contains("{recorder}")) {
            return table;
        }
        for (Map.Entry<String, String> name : names.entrySet()) {
            String renamed = renamed(
                    table,
                    name.getKey().toLowerCase(Locale.ROOT),
                    name.getValue().toLowerCase(Locale.ROOT));
            if (!renamed.equals(table)) {
                return renamed;
            }
        }
        return table + "_" + Layout.freeName(machine, List.of());
    }

    /** One machine's name for another's, and where names end in numbers, the number alone: Pellet line 1 of PL1. */
    static String renamed(String text, String own, String machine) {
        if (own.isEmpty()) {
            return text;
        }
        if (text.contains(own)) {
            return text.replace(own, machine);
        }
        String ownNumber = own.replaceAll("^.*?(\\d+)$", "$1");
        String number = machine.replaceAll("^.*?(\\d+)$", "$1");
        boolean numbered = !ownNumber.equals(own) && !number.equals(machine);
        return numbered && text.matches(".*\\b" + ownNumber + "|.*_" + ownNumber)
                ? text.substring(0, text.length() - ownNumber.length()) + number
                : text;
    }
}
