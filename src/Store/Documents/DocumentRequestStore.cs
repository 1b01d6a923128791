using NodaTime;
using Npgsql;
using SteadyLark.Core.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;

namespace SteadyLark.Store.Documents;

/// <summary>A delivered load with missing documents, and whom to ask.</summary>
public sealed record MissingDocuments(
    long LoadId,
    string Number,
    string? Reference,
    string From,
    string To,
    Instant DeliveredAt,
    IReadOnlyList<DocumentKind> Kinds,
    long LegId,
    long? CarrierId,
    string? Carrier,
    string? CarrierMail,
    long? DriverId,
    string? Driver,
    Instant? LastAsked,
    int Asked
);

/// <summary>A document request, as its link opens it.</summary>
public sealed record DocumentRequestRow(
    long Id,
    long LoadId,
    string Number,
    string From,
    string To,
    IReadOnlyList<DocumentKind> Kinds,
    string? Who,
    bool Closed
);

public static class DocumentRequestStore
{
    /// <summary>Hours after delivery at which the company requests a missing document; 0 for never.</summary>
    public static Task<int> AfterHours(NpgsqlConnection db) => db.One<int>("select document_request_hours from business");

    /// <summary>Delivered loads that are not billed and lack required documents, oldest first.</summary>
    public static async Task<List<MissingDocuments>> Missing(NpgsqlConnection db, long? loadId = null, long? driverId = null) => (
            await db.Rows(
                $"""
                select l.id, l.number, l.reference, l.delivered_at, a.town as from_town, b.town as to_town, g.id as leg_id, g.carrier_id,
                    k.name as carrier, k.email, t.driver_id, d.name as driver, w.required_documents as required,
                       {DocumentFacts.Columns},
                       (select max(x.asked_at) from document_requests x where x.load_id = l.id) as last_asked, (select count(*)::int from
                           document_requests x where x.load_id = l.id) as asked
                from loads l
                join lateral (select * from legs where load_id = l.id order by seq desc limit 1) g on true
                left join companies k on k.id = g.carrier_id left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id
                left join billing_settings w on w.customer_id = l.payer_id
                join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) a
                    on true
                join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit
                    1) b on true
                where l.state = 'delivered' and not l.is_move and (@load::bigint is null or l.id = @load) and (@driver::bigint is null or
                    @driver in (t.driver_id, t.codriver_id)) order by l.delivered_at, l.id
                """,
                r => new MissingDocuments(
                    r.Long("id"),
                    r.Text("number"),
                    r.TextOrNull("reference"),
                    r.Text("from_town"),
                    r.Text("to_town"),
                    r.Instant("delivered_at"),
                    RequiredDocuments.Missing(BillingSettingsStore.KindsOrNull(r, "required"), DocumentFacts.Of(r)),
                    r.Long("leg_id"),
                    r.LongOrNull("carrier_id"),
                    r.TextOrNull("carrier"),
                    r.TextOrNull("email"),
                    r.LongOrNull("driver_id"),
                    r.TextOrNull("driver"),
                    r.InstantOrNull("last_asked"),
                    r.Int("asked")
                ),
                ("load", loadId),
                ("driver", driverId)
            )
        ).Where(m => m.Kinds.Count > 0).Take(500).ToList();

    /// <summary>How long an upload link works after it is sent.</summary>
    public static readonly Duration LinkLifetime = Duration.FromDays(60);

    /// <summary>Records that documents were requested.</summary>
    public static Task Add(CommandContext w, MissingDocuments missing, string token, long? mailId) =>
        w.Db.Run(
            """
            insert into document_requests (load_id, leg_id, kinds, asked_at, asked_by, to_driver, email_id, token) values (@load, @leg,
            @kinds, @now, @by, @driver, @mail, @token)
            """,
            ("load", missing.LoadId),
            ("leg", missing.LegId),
            ("kinds", BillingSettingsStore.Kinds(missing.Kinds)),
            ("now", w.Now),
            ("by", w.Actor.UserId),
            ("driver", missing.CarrierId is null ? missing.DriverId : null),
            ("mail", mailId),
            ("token", LinkToken.Hash(token))
        );

    /// <summary>A document request by the token of its link, while the link is valid; closed once the load is billed.</summary>
    public static Task<DocumentRequestRow?> ByToken(NpgsqlConnection db, string token, Instant now) =>
        db.Row(
            $"""
            select x.id, x.load_id, l.number, a.town as from_town, b.town as to_town, coalesce(k.name, d.name) as who,
                   x.kinds as requested, {DocumentFacts.Columns}, l.state <> 'delivered' as closed
            from document_requests x join loads l on l.id = x.load_id join legs g on g.id = x.leg_id left join companies k on k.id =
                g.carrier_id left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id
            join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) a on
                true
            join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1)
                b on true
            where x.token = @token and x.asked_at > @since
            """,
            r => new DocumentRequestRow(
                r.Long("id"),
                r.Long("load_id"),
                r.Text("number"),
                r.Text("from_town"),
                r.Text("to_town"),
                RequiredDocuments.Missing(BillingSettingsStore.Kinds(r, "requested"), DocumentFacts.Of(r)),
                r.TextOrNull("who"),
                r.Bool("closed")
            ),
            ("token", LinkToken.Hash(token)),
            ("since", now - LinkLifetime)
        );
}
