package dachshund.links.mqtt;

import com.fasterxml.jackson.core.JsonPointer;
import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.tag.TagInfo;
import java.util.List;

/** MQTT 3.1.1 and 5 (OASIS). A tag is a topic, or a part of the JSON on a topic by JSON Pointer (RFC 6901). */
public final class MqttKind implements LinkKind {

    @Override
    public String id() {
        return "mqtt";
    }

    @Override
    public String title() {
        return "MQTT";
    }

    @Override
    public String purpose() {
        return "Sensors and gateways that publish to a broker. Topics are listed as they arrive; values may be plain or parts of JSON.";
    }

    @Override
    public List<SettingField> settings() {
        return List.of(
                SettingField.text("host", "Broker", "broker.example.org", "")
                        .checked(SettingField::host)
                        .reaching(),
                SettingField.text("port", "Port", "1883", "1883")
                        .checked(SettingField::port)
                        .reaching()
                        .helped("1883 usually, 8883 with TLS."),
                SettingField.text("topics", "Topics to watch, one a line", "plant/#", "#")
                        .lines()
                        .checked(MqttKind::filters)
                        .helped("+ stands for one level, # for all that follow. Narrow it on a busy broker."),
                SettingField.text("user", "User name", "", "").reaching(),
                SettingField.secret("password", "Password"),
                SettingField.choice("version", "Version", "5", "MQTT 5", "3.1.1", "MQTT 3.1.1"),
                SettingField.yesNo("tls", "TLS", false).reaching(),
                SettingField.text(
                                "authority",
                                "Certificate of the authority, PEM",
                                "left empty: the authorities this machine knows",
                                "")
                        .lines()
                        .reaching()
                        .seldom(),
                SettingField.choice(
                                "qos",
                                "Quality of service",
                                "1",
                                "1: at least once",
                                "0",
                                "0: at most once",
                                "2",
                                "2: exactly once")
                        .seldom(),
                SettingField.text("client", "Client id", "left empty: a unique one", "")
                        .seldom()
                        .checked(text -> text.length() <= 200 ? "" : "A client id has up to 200 characters.")
                        .helped(
                                "Two clients with one id throw each other out. Leave it empty unless the broker insists."),
                SettingField.text("status", "Status topic (last will)", "plant/+/status", "")
                        .seldom()
                        .checked(text -> text.isBlank() ? "" : filter(text))
                        .helped("When its message is the offline text below, all tags beside and under it are bad."),
                SettingField.text("offline", "Offline text", "offline", "offline")
                        .seldom());
    }

    private static String filters(String text) {
        return text.lines()
                .filter(line -> !line.isBlank())
                .map(MqttKind::filter)
                .filter(problem -> !problem.isEmpty())
                .findFirst()
                .orElse("");
    }

    private static String filter(String text) {
        String[] levels = text.strip().split("/", -1);
        for (int i = 0; i < levels.length; i++) {
            boolean wild = levels[i].equals("+") || levels[i].equals("#") && i == levels.length - 1;
            if (!wild && (levels[i].contains("+") || levels[i].contains("#"))) {
                return "In \"" + text.strip()
                        + "\": + stands for a whole level, and # for all that follow, at the end only.";
            }
        }
        return "";
    }

    @Override
    public List<SettingField> tagFields() {
        return List.of(
                SettingField.text("topic", "Topic", "plant/silo/S1/level", "")
                        .checked(SettingField.needed("A topic is needed.")),
                SettingField.text("pointer", "Part of the JSON", "/level", "")
                        .checked(MqttKind::pointer)
                        .helped("JSON Pointer; empty for a plain value."),
                SettingField.text("time", "Its own time", "/ts", "")
                        .checked(MqttKind::pointer)
                        .helped("JSON Pointer to an RFC 3339 time, or seconds or milliseconds since 1970."),
                SettingField.text("write", "Topic to write to", "", "").helped("Empty: cannot be written."));
    }

    private static String pointer(String text) {
        try {
            JsonPointer.compile(text.strip());
            return "";
        } catch (IllegalArgumentException problem) {
            return "A JSON Pointer begins with /, such as /level or /values/0.";
        }
    }

    @Override
    public String tagProblem(TagInfo tag) {
        String topic = tag.how().getOrDefault("topic", "");
        if (topic.isBlank()) {
            return "A topic is needed.";
        }
        if (topic.contains("+") || topic.contains("#")) {
            return "A tag is one topic; wildcards belong to the topics that the source watches.";
        }
        return "";
    }

    @Override
    public boolean publishes() {
        return true;
    }

    @Override
    public TagInfo described(TagInfo tag) {
        boolean writable = !tag.how().getOrDefault("write", "").isBlank();
        return new TagInfo(
                tag.address(),
                tag.path(),
                tag.name(),
                tag.kind(),
                tag.unit(),
                tag.description(),
                writable,
                tag.range(),
                tag.decimals(),
                tag.changesWithin(),
                tag.labels(),
                tag.how(),
                tag.original());
    }

    @Override
    public PlantLink open(Opening opening) {
        return new MqttLink(opening);
    }
}
