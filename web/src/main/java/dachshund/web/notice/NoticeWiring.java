package dachshund.web.notice;

import dachshund.core.notice.NoticeRule;
import dachshund.core.reach.Outside;
import dachshund.core.secret.SecretBox;
import dachshund.engine.Engine;
import dachshund.engine.notice.Notices;
import dachshund.engine.notice.Outbox;
import dachshund.links.notice.Smtp;
import dachshund.links.notice.Webhook;
import dachshund.office.own.DachshundSettings;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.event.EventListener;

/** Puts together who looks, who writes and who carries. */
@Configuration
class NoticeWiring {

    private static final String FIRST_DEMO = "notice demo";

    @Bean
    MailSettings mailSettings(Engine engine, SecretBox secrets) {
        return new MailSettings(engine, secrets);
    }

    @Bean
    Outbox outbox(DachshundSettings settings, Engine engine, MailSettings mail, Outside outside) {
        return new Outbox(
                settings.var().resolve("notices"),
                engine.local(),
                engine.clock(),
                Map.of(
                        NoticeRule.Way.MAIL, new Smtp(mail::opened, outside),
                        NoticeRule.Way.WEBHOOK, new Webhook(mail::webhookKey, outside, engine.clock())));
    }

    @Bean
    Notices notices(DachshundSettings settings, Engine engine, Outbox outbox, Matters matters) {
        return new Notices(engine.local(), outbox, engine.clock(), settings.zone(), settings.site(), matters.all());
    }

    /** Begins when everything else does; the demo has a mail server and somebody who is told of everything. */
    @Configuration
    static class Beginning {

        private final Notices notices;
        private final MailSettings mail;
        private final DemoMail demo;
        private final DachshundSettings settings;
        private final Engine engine;

        Beginning(Notices notices, MailSettings mail, DemoMail demo, DachshundSettings settings, Engine engine) {
            this.notices = notices;
            this.mail = mail;
            this.demo = demo;
            this.settings = settings;
            this.engine = engine;
        }

        @EventListener(ApplicationReadyEvent.class)
        void begin() {
            if (settings.demo() && demo.there()) {
                if (engine.local().remembered(FIRST_DEMO).isEmpty()) {
                    notices.change(new NoticeRule(
                            "f1f1f1f1",
                            "The shift on duty",
                            NoticeRule.Way.MAIL,
                            DemoMail.ADDRESS,
                            Set.of(),
                            false,
                            List.of(),
                            List.of(),
                            List.of(),
                            "",
                            "",
                            true));
                    engine.local().remember(FIRST_DEMO, "made");
                }
                if (mail.kept().isEmpty()
                        || mail.kept().getOrDefault("user", "").equals(DemoMail.USER)) {
                    mail.keep(Map.of(
                            "host", "127.0.0.1",
                            "port", Integer.toString(demo.smtpPort()),
                            "security", "none",
                            "user", DemoMail.USER,
                            "password", DemoMail.PASSWORD,
                            "from", "dachshund@quillmoor.example",
                            "authority", ""));
                }
            }
            notices.begin();
        }
    }
}
