package dachshund.links.opcua;

import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.time.PeriodText;
import java.util.List;

/** OPC UA over TCP (OPC 10000-4 and -6). */
public final class OpcUaKind implements LinkKind {

    static final String ADDRESS = "address";
    private static final String BYTES = "bytes";
    private static final String HEX = "hex";

    private final OpcUaTrust trust;

    /** @param trust our certificate and the servers' */
    public OpcUaKind(OpcUaTrust trust) {
        this.trust = trust;
    }

    @Override
    public String id() {
        return "opcua";
    }

    @Override
    public String title() {
        return "OPC UA";
    }

    @Override
    public String purpose() {
        return "Controllers, control systems and gateways. The server says what it offers, with units and ranges. A classic COM-based OPC server is reached through any OPC UA gateway.";
    }

    @Override
    public List<SettingField> settings() {
        return List.of(
                SettingField.text(ADDRESS, "Address", "opc.tcp://192.168.10.20:4840", "opc.tcp://")
                        .checked(OpcUaAddress::problem)
                        .reaching(),
                SettingField.choice(
                                "security",
                                "Security",
                                "None",
                                "none: anyone on the network can read and change what is sent",
                                "best",
                                "the best the server offers",
                                "Basic256Sha256 SignAndEncrypt",
                                "Basic256Sha256, signed and encrypted",
                                "Basic256Sha256 Sign",
                                "Basic256Sha256, signed",
                                "Aes128_Sha256_RsaOaep SignAndEncrypt",
                                "Aes128-Sha256-RsaOaep, signed and encrypted",
                                "Aes128_Sha256_RsaOaep Sign",
                                "Aes128-Sha256-RsaOaep, signed",
                                "Aes256_Sha256_RsaPss SignAndEncrypt",
                                "Aes256-Sha256-RsaPss, signed and encrypted",
                                "Aes256_Sha256_RsaPss Sign",
                                "Aes256-Sha256-RsaPss, signed",
                                "Basic256 SignAndEncrypt",
                                "Basic256, signed and encrypted (deprecated)",
                                "Basic128Rsa15 SignAndEncrypt",
                                "Basic128Rsa15, signed and encrypted (deprecated)")
                        .reaching()
                        .helped(
                                "With security, the server's certificate must be accepted under Certificates, and the server must trust ours."),
                SettingField.choice(
                                "signin",
                                "Sign in",
                                "anonymous",
                                "anonymously",
                                "user",
                                "with user name and password",
                                "certificate",
                                "with our certificate")
                        .reaching(),
                SettingField.text("user", "User name", "", "").reaching(),
                SettingField.secret("password", "Password"),
                SettingField.text(
                                "alternates",
                                "Other addresses, tried in this order when the first fails",
                                "opc.tcp://192.168.10.21:4840",
                                "")
                        .lines()
                        .reaching()
                        .seldom()
                        .checked(text -> text.lines()
                                .filter(line -> !line.isBlank())
                                .map(OpcUaAddress::problem)
                                .filter(problem -> !problem.isEmpty())
                                .findFirst()
                                .orElse("")),
                SettingField.text("publishing", "Publishing interval", "as often as values are asked for", "")
                        .seldom()
                        .checked(OpcUaKind::interval),
                SettingField.text("deadband", "Dead band of numbers", "0.5 or 1 %", "")
                        .seldom()
                        .checked(OpcUaKind::deadband)
                        .helped("Smaller changes are not sent. Percent is of the tag's range."),
                SettingField.choice(BYTES, "Byte strings are shown in", "base64", "Base64", HEX, "hexadecimal")
                        .seldom(),
                SettingField.text("queue", "Values a tag may queue at the server", "10", "10")
                        .seldom()
                        .checked(SettingField.orEmpty(
                                SettingField.whole(1, 10_000, "A queue holds 1 to 10,000 values."))));
    }

    static boolean hex(Opening opening) {
        return opening.setting(BYTES).equals(HEX);
    }

    private static String interval(String text) {
        try {
            return text.isBlank() || PeriodText.read(text).toMillis() >= 10
                    ? ""
                    : "A publishing interval is 10 ms or longer.";
        } catch (IllegalArgumentException problem) {
            return problem.getMessage();
        }
    }

    private static String deadband(String text) {
        return text.isBlank() || text.strip().matches("\\d+(\\.\\d+)?\\s*%?")
                ? ""
                : "A dead band is a number in the tag's unit, such as 0.5, or a percentage, such as 1 %.";
    }

    @Override
    public PlantLink open(Opening opening) {
        return new OpcUaLink(opening, trust);
    }
}
