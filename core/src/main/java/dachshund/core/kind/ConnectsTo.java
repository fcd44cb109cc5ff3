package dachshund.core.kind;

import java.util.Map;

/** Where settings lead, in words. */
final class ConnectsTo {

    private ConnectsTo() {}

    /** Such as "database quality on db:3306", "files in the folder reports", "opc.tcp://plc:4840"; empty where nowhere. */
    static String words(Map<String, String> settings) {
        String address = settings.getOrDefault("address", "");
        if (!address.isEmpty()) {
            return address;
        }
        String host = settings.getOrDefault("host", "");
        if (!host.isEmpty()) {
            String database = settings.getOrDefault("database", "");
            String port = settings.getOrDefault("port", "");
            return (database.isEmpty() ? "" : "database " + database + " on ")
                    + host
                    + (port.isEmpty() ? "" : ":" + port);
        }
        if (settings.containsKey("folder")) {
            String folder = settings.get("folder");
            return folder.isEmpty() ? "files" : "files in the folder " + folder;
        }
        return settings.containsKey("file") ? "the file " + settings.get("file") : "";
    }
}
