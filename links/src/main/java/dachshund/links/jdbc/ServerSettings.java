package dachshund.links.jdbc;

import com.zaxxer.hikari.HikariConfig;
import dachshund.core.source.SettingField;
import dachshund.links.network.Trust;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/**
 * Settings that every database server has.
 *
 * @param tls           whether the connection is over TLS, with the authority and the host's name checked
 * @param authority     certificates of authorities as PEM; empty for those that this Java believes
 * @param answerSeconds how long a statement may take before its connection is given up
 */
public record ServerSettings(
        String host,
        String port,
        String database,
        String user,
        String password,
        boolean tls,
        String authority,
        int connections,
        int connectSeconds,
        int answerSeconds) {

    private static final int POOL_WAIT_MILLIS = 3000;

    public static ServerSettings of(Map<String, String> settings) {
        return new ServerSettings(
                settings.get("host").strip(),
                settings.get("port").strip(),
                settings.get("database").strip(),
                settings.getOrDefault("user", ""),
                settings.getOrDefault("password", ""),
                settings.getOrDefault("tls", "").equals("on"),
                settings.getOrDefault("authority", "").strip(),
                number(settings, "connections", 4),
                number(settings, "connectWithin", 3),
                number(settings, "answerWithin", 30));
    }

    private static int number(Map<String, String> settings, String name, int unless) {
        String text = settings.getOrDefault(name, "").strip();
        return text.isEmpty() ? unless : Integer.parseInt(text);
    }

    public ServerSettings withDatabase(String other) {
        return new ServerSettings(
                host, port, other, user, password, tls, authority, connections, connectSeconds, answerSeconds);
    }

    public Duration connectWithin() {
        return Duration.ofSeconds(connectSeconds);
    }

    public String place() {
        return host + ":" + port;
    }

    /** A pool of this size with this log-in; address and the rest are the engine's. */
    public HikariConfig pool() {
        HikariConfig config = new HikariConfig();
        config.setMaximumPoolSize(Math.max(2, connections));
        config.setConnectionTimeout(POOL_WAIT_MILLIS);
        return config;
    }

    /** The fields of a form. */
    public static List<SettingField> fields(String port) {
        List<SettingField> fields = new ArrayList<>(List.of(
                SettingField.text("host", "Host", "db.example.org", "127.0.0.1")
                        .checked(ServerSettings::host)
                        .reaching(),
                SettingField.text("port", "Port", port, port)
                        .checked(SettingField::port)
                        .reaching(),
                SettingField.text("database", "Database", "records", "").checked(ServerSettings::database),
                SettingField.text("user", "User", "recorder", "")
                        .checked(SettingField.needed("The name of a database user is needed."))
                        .reaching(),
                SettingField.secret("password", "Password"),
                SettingField.choice(
                                "tls",
                                "TLS",
                                "off",
                                "none: anyone on the network can read rows and the password",
                                "on",
                                "on: its authority and the name of the host are checked")
                        .reaching(),
                SettingField.text(
                                "authority",
                                "Certificate of the authority, PEM",
                                "left empty: the authorities this machine knows",
                                "")
                        .lines()
                        .checked(Trust::problem)
                        .helped(
                                "Of whoever signed the server's certificate, or that certificate itself where it is signed by nobody else.")
                        .reaching()
                        .seldom(),
                SettingField.text("connections", "Connections at most", "4", "4")
                        .checked(SettingField.whole(
                                2,
                                50,
                                "From 2 to 50: one writes, the others try what stands in the way of single recorders."))
                        .seldom(),
                SettingField.text("connectWithin", "Connect within (seconds)", "3", "3")
                        .checked(SettingField.whole(1, 60, "From 1 to 60 seconds."))
                        .seldom(),
                SettingField.text("answerWithin", "Answer within (seconds)", "30", "30")
                        .checked(SettingField.whole(1, 600, "From 1 to 600 seconds."))
                        .seldom()));
        fields.addAll(dachshund.core.destination.Batching.fields());
        return List.copyOf(fields);
    }

    /** What a driver's address would take for more than a name has no place in it. */
    static String database(String text) {
        if (text.isBlank()) {
            return "The name of the database is needed.";
        }
        if (text.strip().length() > 64) {
            return "The name of a database has up to 64 characters.";
        }
        return text.strip().matches("[^/?&=#;:@%\\\\'\"`\\p{Cntrl}]+")
                ? ""
                : "The name of a database has no / ? & = # ; : @ % \\ and no quotation marks here.";
    }

    private static String host(String text) {
        if (text.isBlank()) {
            return "The name or IP address of the database server is needed.";
        }
        return text.strip().matches("[A-Za-z0-9._-]+|\\[?[0-9a-fA-F:]+]?")
                ? ""
                : "Write the host's name or IP address alone, without port or path.";
    }
}
