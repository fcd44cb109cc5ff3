package dachshund.links.notice;

import dachshund.core.notice.Carrier;
import dachshund.core.notice.Message;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.links.network.Trust;
import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.MessagingException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeMessage;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.util.Date;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.function.Supplier;
import org.eclipse.angus.mail.smtp.SMTPAddressFailedException;
import org.eclipse.angus.mail.smtp.SMTPSendFailedException;
import org.eclipse.angus.mail.smtp.SMTPSenderFailedException;

/**
 * Carries messages by mail (RFC 5321), with STARTTLS (RFC 3207) or TLS from the first byte (RFC 8314), the server's name
 * checked against its certificate. A reply of 4xx is tried again, one of 5xx is not.
 */
public final class Smtp implements Carrier {

    private static final String CONNECT_MILLIS = "10000";
    private static final String ANSWER_MILLIS = "20000";
    private static final int PERMANENT = 500;

    private final Supplier<Map<String, String>> settings;
    private final Outside outside;

    /** @param settings in clear, as {@link #fields} describes them; throws IllegalArgumentException with a sentence where they cannot be used */
    public Smtp(Supplier<Map<String, String>> settings, Outside outside) {
        this.settings = settings;
        this.outside = outside;
    }

    public static List<SettingField> fields() {
        return List.of(
                SettingField.text("host", "Host", "mail.example.org", "")
                        .reaching()
                        .checked(SettingField::host),
                SettingField.text("port", "Port", "587", "587")
                        .reaching()
                        .checked(SettingField::port)
                        .helped("587 usually with STARTTLS, 465 with TLS, 25 within a plant."),
                SettingField.choice(
                                "security",
                                "Security",
                                "starttls",
                                "STARTTLS: refused where the server has none",
                                "tls",
                                "TLS from the first byte",
                                "none",
                                "none: anyone on the network can read notices and the password")
                        .reaching(),
                SettingField.text("user", "User", "dachshund", "")
                        .reaching()
                        .helped("Empty where the server asks for none."),
                SettingField.secret("password", "Password"),
                SettingField.text("from", "From", "dachshund@example.org", "")
                        .checked(text -> text.strip().matches("[^\\s@,<>\"]+@[^\\s@,<>\"]+")
                                ? ""
                                : "The address that notices come from, such as dachshund@example.org."),
                SettingField.text("authority", "Certificate of the authority", "-----BEGIN CERTIFICATE-----", "")
                        .lines()
                        .checked(Trust::problem)
                        .helped(
                                "Where the server's certificate is signed by one of your own. Empty for the known ones.")
                        .seldom()
                        .reaching());
    }

    @Override
    public void carry(List<String> to, Message message) throws Undelivered {
        Map<String, String> now;
        try {
            now = settings.get();
        } catch (IllegalArgumentException cannot) {
            throw new Undelivered(cannot.getMessage(), false, cannot);
        }
        String host = now.get("host").strip();
        int port = Integer.parseInt(now.get("port").strip());
        try {
            outside.check(host, port);
            send(session(now, host, port), now, to, message);
        } catch (Outside.Refused refused) {
            throw new Undelivered(refused.getMessage(), false, refused);
        } catch (GeneralSecurityException authority) {
            throw new Undelivered(authority.getMessage(), false, authority);
        } catch (MessagingException problem) {
            throw undelivered(problem, host + ":" + port);
        }
    }

    private static Session session(Map<String, String> now, String host, int port) throws GeneralSecurityException {
        Properties properties = new Properties();
        properties.setProperty("mail.smtp.host", host);
        properties.setProperty("mail.smtp.port", Integer.toString(port));
        properties.setProperty("mail.smtp.connectiontimeout", CONNECT_MILLIS);
        properties.setProperty("mail.smtp.timeout", ANSWER_MILLIS);
        properties.setProperty("mail.smtp.writetimeout", ANSWER_MILLIS);
        properties.setProperty(
                "mail.smtp.auth", Boolean.toString(!now.get("user").isBlank()));
        properties.setProperty("mail.smtp.ssl.checkserveridentity", "true");
        properties.setProperty("mail.smtp.ssl.protocols", "TLSv1.3 TLSv1.2");
        properties.put(
                "mail.smtp.ssl.socketFactory",
                Trust.context(now.get("authority")).getSocketFactory());
        properties.setProperty(
                "mail.smtp.ssl.enable", Boolean.toString(now.get("security").equals("tls")));
        boolean upgrade = now.get("security").equals("starttls");
        properties.setProperty("mail.smtp.starttls.enable", Boolean.toString(upgrade));
        properties.setProperty("mail.smtp.starttls.required", Boolean.toString(upgrade));
        properties.setProperty("mail.smtp.localhost", "dachshund");
        return Session.getInstance(properties);
    }

    private static void send(Session session, Map<String, String> now, List<String> to, Message message)
            throws MessagingException {
        MimeMessage mail = new MimeMessage(session) {
            @Override
            protected void updateMessageID() throws MessagingException {
                // The same if it has to be sent again, so that who gets it twice can tell.
                setHeader("Message-ID", "<" + message.id() + "@dachshund>");
            }
        };
        mail.setFrom(new InternetAddress(now.get("from").strip()));
        for (String each : to) {
            mail.addRecipient(MimeMessage.RecipientType.TO, new InternetAddress(each));
        }
        mail.setSubject(message.subject(), StandardCharsets.UTF_8.name());
        mail.setText(message.text(), StandardCharsets.UTF_8.name());
        mail.setSentDate(Date.from(message.at()));
        mail.setHeader("Auto-Submitted", "auto-generated"); // RFC 3834: no holiday replies
        try (Transport transport = session.getTransport("smtp")) {
            if (now.get("user").isBlank()) {
                transport.connect();
            } else {
                transport.connect(now.get("user").strip(), now.get("password"));
            }
            mail.saveChanges();
            transport.sendMessage(mail, mail.getAllRecipients());
        }
    }

    /** The server's own words, and whether they are for good. */
    private static Undelivered undelivered(MessagingException problem, String place) {
        for (Exception each = problem; each != null; each = next(each)) {
            int code = each instanceof SMTPAddressFailedException address
                    ? address.getReturnCode()
                    : each instanceof SMTPSendFailedException send
                            ? send.getReturnCode()
                            : each instanceof SMTPSenderFailedException sender ? sender.getReturnCode() : 0;
            if (code > 0) {
                return new Undelivered(
                        "The mail server at " + place + " said: " + one(each.getMessage()), code >= PERMANENT, problem);
            }
        }
        if (problem instanceof AuthenticationFailedException) {
            return new Undelivered(
                    "The mail server at " + place + " refuses this user or password: " + one(problem.getMessage()),
                    false,
                    problem);
        }
        Throwable cause = problem.getCause() == null ? problem : problem.getCause();
        return new Undelivered(
                "The mail server at " + place + " cannot be used: "
                        + one(problem.getMessage())
                        + (cause == problem || cause.getMessage() == null ? "" : " (" + one(cause.getMessage()) + ")"),
                false,
                problem);
    }

    private static Exception next(Exception one) {
        return one instanceof MessagingException messaging ? messaging.getNextException() : null;
    }

    private static String one(String text) {
        return text == null ? "no word" : text.strip().replaceAll("[\\p{Cntrl}]+", " ");
    }
}
