using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Trips;

namespace SteadyLark.Store.Loads;

public static class LoadWrites
{
    /// <summary>Locks a load for this transaction and returns its version; null when there is none. Every change to a load begins
    /// here.</summary>
    public static async Task<int?> Lock(NpgsqlConnection db, long id)
    {
        var version = await db.One<int>("select version from loads where id = @id for update", ("id", id));
        return version == 0 ? null : version;
    }

    /// <summary>Locks several loads in one order, so that two commands never wait for each other.</summary>
    public static async Task Lock(NpgsqlConnection db, IEnumerable<long> ids)
    {
        foreach (var id in ids.Distinct().Order())
        {
            await Lock(db, id);
        }
    }

    public static Task<string?> NextNumber(NpgsqlConnection db, string series) =>
        db.One<string>("select next_in_series(@series)", ("series", series));

    public static async Task<long> Add(CommandContext w, string number, BookedLoad load)
    {
        var id = await w.Db.One<long>(
            """
            insert into loads (number, state, is_draft, customer_id, reference, equipment, driver_instructions, carrier_instructions, miles,
                revenue, booked_by, booked_at, first_at, last_at, office_id, bill_to_id, freight_terms, currency, is_move, moves_trailer_id, required_features, cod, to_cover)
            values (@number, @state, @draft, @customer, @reference, @equipment, @forDriver, @forCarrier, @miles, @revenue, @by, @now,
                @first, @last, @office, @billTo, @terms, @currency, @move, @movesTrailer, @features, @cod, case when @draft then null else 1 end) returning id
            """,
            [
                ("number", number),
                ("state", load.Draft ? LoadState.Draft : LoadState.Booked),
                ("by", w.Actor.UserId),
                ("now", w.Now),
                .. Parameters(load),
            ]
        );
        await WriteParts(w, id, load, []);
        return id;
    }

    /// <summary>Replaces the order. Only for loads that have not moved and are not billed.</summary>
    public static async Task Replace(CommandContext w, long id, BookedLoad load)
    {
        await w.Db.Run(
            """
            update loads set is_draft = @draft, state = case when @draft then 'draft' else 'booked' end, to_cover = case when @draft then null else 1 end, customer_id = @customer, reference
                = @reference, equipment = @equipment,
                driver_instructions = @forDriver, carrier_instructions = @forCarrier, miles = @miles, revenue = @revenue, first_at = @first,
                    last_at = @last, office_id = @office, bill_to_id = @billTo, freight_terms = @terms, currency = @currency, required_features = @features, cod = @cod
            where id = @id
            """,
            [("id", id), .. Parameters(load)]
        );
        // Whoever set manual miles earlier stays their author.
        var authors = (
            await w.Db.Rows(
                "select seq, miles_set, miles_why, miles_by, miles_at from stops where load_id = @id and miles_set is not null",
                r =>
                    (
                        Seq: r.Int("seq"),
                        Miles: r.Int("miles_set"),
                        Why: r.Text("miles_why"),
                        By: r.Text("miles_by"),
                        At: r.Instant("miles_at")
                    ),
                ("id", id)
            )
        ).ToDictionary(a => (a.Seq, a.Miles, a.Why), a => (a.By, a.At));
        await w.Db.Run("delete from stops where load_id = @id", ("id", id));
        await WriteParts(w, id, load, authors);
    }

    /// <summary>Replaces what may change once a load is covered: everything but its stops.</summary>
    public static async Task ReplaceAllButStops(CommandContext w, long id, BookedLoad load)
    {
        await w.Db.Run(
            """
            update loads set customer_id = @customer, reference = @reference, equipment = @equipment, driver_instructions = @forDriver,
                carrier_instructions = @forCarrier, revenue = @revenue, office_id = @office, bill_to_id = @billTo, freight_terms = @terms,
                currency = @currency, required_features = @features, cod = @cod
            where id = @id
            """,
            ("id", id),
            ("customer", load.CustomerId),
            ("reference", load.Reference),
            ("equipment", load.Equipment),
            ("forDriver", load.DriverInstructions),
            ("forCarrier", load.CarrierInstructions),
            ("revenue", load.Revenue),
            ("currency", load.Currency),
            ("office", load.OfficeId),
            ("billTo", load.BillToId),
            ("terms", load.FreightTerms),
            ("cod", load.Cod),
            ("features", load.Features.ToArray())
        );
        await WriteLines(w.Db, id, load);
    }

    /// <summary>Renumbers a load.</summary>
    public static Task Renumber(NpgsqlConnection db, long id, string number) =>
        db.Run("update loads set number = @number where id = @id", ("id", id), ("number", number));

    /// <summary>Cancels a load; a charge for its truck replaces what it was booked with.</summary>
    public static async Task Cancel(CommandContext w, long id, Cancellation cancellation)
    {
        if (cancellation.Customer is { } charge)
        {
            await w.Db.Run("delete from charges where load_id = @id", ("id", id));
            await AddCharges(w.Db, id, [charge], 0);
            await w.Db.Run("update loads set revenue = @revenue where id = @id", ("id", id), ("revenue", charge.Amount));
        }

        await Cancel(w, [id], cancellation.Why);
    }

    /// <summary>Cancels loads without a charge.</summary>
    public static Task Cancel(CommandContext w, IReadOnlyCollection<long> ids, string why) =>
        w.Db.Run(
            "update loads set cancelled_at = @now, cancelled_why = @why, state = 'cancelled', to_cover = null where id = any(@ids)",
            ("ids", ids.ToArray()),
            ("now", w.Now),
            ("why", why)
        );

    /// <summary>Loads that were canceled are open again.</summary>
    public static Task Reopen(NpgsqlConnection db, IReadOnlyCollection<long> ids) =>
        db.Run(
            """
            update loads set cancelled_at = null, cancelled_why = null, state = case when is_draft then 'draft' else 'booked' end,
                to_cover = case when is_draft then null else 1 end where id = any(@ids)
            """,
            ("ids", ids.ToArray())
        );

    /// <summary>Says of loads which ones replace them.</summary>
    public static Task Replaced(NpgsqlConnection db, IReadOnlyCollection<long> old, IReadOnlyCollection<long> by) =>
        db.Run(
            "insert into load_replacements (old_id, new_id) select o, n from unnest(@old::bigint[]) o cross join unnest(@by::bigint[]) n",
            ("old", old.ToArray()),
            ("by", by.ToArray())
        );

    /// <summary>The loads that were replaced together with one, itself included, and those that replaced them; both empty when it was not.</summary>
    public static async Task<(List<long> Old, List<long> By)> Replacements(NpgsqlConnection db, long id)
    {
        var pairs = await db.Rows(
            """
            select r.old_id, r.new_id from load_replacements r where r.new_id = any(array(select new_id from load_replacements where old_id = @id))
            order by 1, 2
            """,
            r => (Old: r.Long("old_id"), By: r.Long("new_id")),
            ("id", id)
        );
        return (pairs.Select(p => p.Old).Distinct().ToList(), pairs.Select(p => p.By).Distinct().ToList());
    }

    /// <summary>Forgets what replaced loads.</summary>
    public static Task NotReplaced(NpgsqlConnection db, IReadOnlyCollection<long> old) =>
        db.Run("delete from load_replacements where old_id = any(@old)", ("old", old.ToArray()));

    /// <summary>Tracking links of loads lead to another one from now on.</summary>
    public static Task MoveTrackLinks(NpgsqlConnection db, IReadOnlyCollection<long> from, long to) =>
        db.Run("update track_links set load_id = @to where load_id = any(@from)", ("from", from.ToArray()), ("to", to));

    public static Task WriteStop(CommandContext w, StopRow before, StopChange change, string via) =>
        w.Db.Run(
            """
            update stops set arrived_at = @arrived, arrived_via = case when @arrived::timestamptz is null then null when arrived_at is
                distinct from @arrived then @via else arrived_via end,
                left_at = @left, left_via = case when @left::timestamptz is null then null when left_at is distinct from @left then @via
                    else left_via end,
                delivered_at = @delivered, delivered_via = case when @delivered::timestamptz is null then null when delivered_at is distinct
                    from @delivered then @via else delivered_via end,
                received_by = case when @delivered::timestamptz is null then null else coalesce(@by, received_by) end
            where id = @id
            """,
            ("id", before.Id),
            ("arrived", change.Arrived),
            ("left", change.Left),
            ("delivered", change.Delivered),
            ("by", change.ReceivedBy),
            ("via", via)
        );

    /// <summary>Adds a stop at the end of a load in progress.</summary>
    public static async Task AddStop(CommandContext w, long id, int seq, BookedStop s, int milesMore)
    {
        await WriteStopRow(w, id, seq, s, []);
        await w.Db.Run(
            "update loads set miles = miles + @more, last_at = @last where id = @id",
            ("id", id),
            ("more", milesMore),
            ("last", s.At!.Value.Until)
        );
        await w.Db.Run(
            "update legs set miles = miles + @more where load_id = @id and seq = (select max(seq) from legs where load_id = @id)",
            ("id", id),
            ("more", milesMore)
        );
    }

    /// <summary>Adds a reference the load does not have yet.</summary>
    public static Task AddReference(NpgsqlConnection db, long id, ReferenceKind kind, string value) =>
        db.Run(
            """
            insert into load_references (load_id, seq, kind, value)
            select @id, coalesce(max(seq), 0) + 1, @kind, @value from load_references where load_id = @id having not coalesce(bool_or(kind =
                @kind and lower(value) = lower(@value)), false)
            """,
            ("id", id),
            ("kind", kind),
            ("value", value)
        );

    /// <summary>Creates a tracking link for a customer, and returns its token. The token is stored hashed.</summary>
    public static async Task<string> CreateTrackLink(CommandContext w, long id)
    {
        var token = LinkToken.New();
        await w.Db.Run(
            "insert into track_links (token, load_id, created_at, created_by) values (@token, @id, @now, @by)",
            ("token", LinkToken.Hash(token)),
            ("id", id),
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );
        return token;
    }

    /// <summary>Revokes every tracking link of a load; how many there were.</summary>
    public static Task<int> RevokeTrackLinks(CommandContext w, long id) =>
        w.Db.Run("update track_links set revoked_at = @now where load_id = @id and revoked_at is null", ("id", id), ("now", w.Now));

    /// <summary>After any change to a load: derives its state, increments its version, updates the search index, and once it is or was
    /// delivered, posts what it earns and costs.</summary>
    /// <returns>The new state.</returns>
    public static async Task<LoadState> Settle(CommandContext w, long id)
    {
        var db = w.Db;
        List<StopFacts> stops = [];
        List<(LegCover Cover, bool Paid, bool Ended)> legs = [];
        (bool Draft, bool Cancelled, bool Invoiced, bool Paid, bool Delivered, Money Late, bool Move) whole = default;
        await db.Together(
            [("id", id)],
            (
                """
                select kind, arrived_at is not null as arrived, left_at is not null as gone, delivered_at is not null as delivered,
                refused_at is not null as refused from stops where load_id = @id order by seq
                """,
                r =>
                    stops.Add(
                        new StopFacts(r.Enum<StopKind>("kind"), r.Bool("arrived"), r.Bool("gone"), r.Bool("delivered"), r.Bool("refused"))
                    )
            ),
            (
                """
                select case when g.trip_id is null and g.carrier_id is null then 'open' when g.carrier_id is not null and exists (select 1
                    from tenders t where t.leg_id = g.id and t.ended_at is null and t.accepted_at is null) then 'tendered' else 'covered'
                    end as cover, (b.paid_on is not null or coalesce(st.paid, false) or coalesce(g.agreed = 0, false)) as paid,
                    le.ended_at is not null as ended
                from legs g join leg_ends le on le.leg_id = g.id left join bills b on b.leg_id = g.id and b.voided_at is null
                left join lateral (select bool_and(se.paid_on is not null) as paid from trip_crew c
                    left join settlement_legs sl on sl.leg_id = g.id and sl.driver_id = c.driver_id and sl.standing
                    left join settlements se on se.id = sl.settlement_id where c.trip_id = g.trip_id) st on true
                where g.load_id = @id order by g.seq
                """,
                r =>
                {
                    legs.Add((r.Enum<LegCover>("cover"), r.Bool("paid"), r.Bool("ended")));
                }
            ),
            (
                """
                select l.is_draft, l.is_move, l.cancelled_at is not null as cancelled, coalesce(i.billed, false) as invoiced, coalesce(i.paid, false) as
                    paid, l.delivered_at is not null as delivered, l.currency, case when i.billed then (select coalesce(sum(c.amount), 0) from charges c
                    where c.load_id = l.id and not exists (select 1 from invoice_lines x where x.charge_id = c.id and x.standing)) else 0
                    end as late
                from loads l left join lateral (select bool_or(not il.supplement) as billed, bool_and(i.paid = i.total) as paid
                    from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) i on true
                    where l.id = @id
                """,
                r =>
                    whole = (
                        r.Bool("is_draft"),
                        r.Bool("cancelled"),
                        r.Bool("invoiced"),
                        r.Bool("paid"),
                        r.Bool("delivered"),
                        r.Money("late"),
                        r.Bool("is_move")
                    )
            )
        );
        var facts = new LoadFacts(
            whole.Draft,
            false,
            whole.Cancelled,
            stops,
            legs.SkipWhile(g => g.Ended).Select(g => g.Cover).ToList(),
            whole.Invoiced,
            whole.Paid && whole.Late.Amount == 0,
            legs.Count > 0 && legs.All(g => g.Paid),
            whole.Move
        );
        var state = LoadStates.Derive(facts);
        var toCover = LoadStates.ToCover(state, facts.Legs) + legs.TakeWhile(g => g.Ended).Count() + 1;
        await db.Run(
            """
            update loads set state = @state, to_cover = @toCover, version = version + 1, lane = lane_of(id), late_charges = @late,
                delivered_at = case when @state in ('delivered', 'billed', 'closed') then (select max(coalesce(delivered_at, left_at)) from
                    stops where load_id = @id and refused_at is null) end
            where id = @id;
            select find_load(@id)
            """,
            ("id", id),
            ("state", state),
            ("toCover", toCover),
            ("late", whole.Late)
        );
        await LegCosts.OfLoad(w, id);
        if (whole.Delivered || state is LoadState.Delivered or LoadState.Billed or LoadState.Closed or LoadState.Cancelled)
        {
            await AccrualStore.Change(w, id);
        }

        return state;
    }

    private static (string, object?)[] Parameters(BookedLoad load) =>
        [
            ("draft", load.Draft),
            ("customer", load.CustomerId),
            ("reference", load.Reference),
            ("equipment", load.Equipment),
            ("forDriver", load.DriverInstructions),
            ("forCarrier", load.CarrierInstructions),
            ("miles", load.Miles),
            ("revenue", load.Revenue),
            ("currency", load.Currency),
            ("office", load.OfficeId),
            ("billTo", load.BillToId),
            ("terms", load.FreightTerms),
            ("cod", load.Cod),
            ("features", load.Features.ToArray()),
            ("move", load.Move is not null),
            ("movesTrailer", load.Move?.TrailerId),
            ("first", load.Stops.Count > 0 ? load.Stops[0].At?.From : null),
            ("last", load.Stops.Count > 0 ? load.Stops[^1].At?.Until : null),
        ];

    private static Task<int> WriteStopRow(
        CommandContext w,
        long id,
        int seq,
        BookedStop s,
        Dictionary<(int Seq, int Miles, string Why), (string By, Instant At)> authors
    )
    {
        var set = s.RouteOverride.Miles is { } miles
            ? authors.TryGetValue((seq, miles, s.RouteOverride.Why!), out var author)
                ? author
                : (w.Actor.Name, w.Now)
            : default((string By, Instant At)?);
        return w.Db.Run(
            """
            insert into stops (load_id, seq, kind, place_id, from_local, until_local, zone, from_at, until_at, note, road_miles, miles_set,
                miles_why, miles_by, miles_at, via_names, via_latitudes, via_longitudes)
            values (@load, @seq, @kind, @place, @from, @until, @zone, @fromAt, @untilAt, @note, @road, @set, @why, @by, @setAt, @names,
                @latitudes, @longitudes)
            """,
            ("load", id),
            ("seq", seq),
            ("kind", s.Kind),
            ("place", s.Place?.Id),
            ("from", s.Window?.From),
            ("until", s.Window?.Until),
            ("zone", s.Place?.Zone),
            ("fromAt", s.At?.From),
            ("untilAt", s.At?.Until),
            ("note", s.Note),
            ("road", s.RoadMiles),
            ("set", s.RouteOverride.Miles),
            ("why", s.RouteOverride.Why),
            ("by", set?.By),
            ("setAt", set?.At),
            ("names", s.RouteOverride.Via.Select(v => v.Name).ToArray()),
            ("latitudes", s.RouteOverride.Via.Select(v => v.Point.Latitude).ToArray()),
            ("longitudes", s.RouteOverride.Via.Select(v => v.Point.Longitude).ToArray())
        );
    }

    private static async Task WriteParts(
        CommandContext w,
        long id,
        BookedLoad load,
        Dictionary<(int Seq, int Miles, string Why), (string By, Instant At)> authors
    )
    {
        var db = w.Db;
        for (var i = 0; i < load.Stops.Count; i++)
        {
            await WriteStopRow(w, id, i + 1, load.Stops[i], authors);
        }

        await WriteLines(db, id, load);
        if (!load.Draft)
        {
            await db.Run(
                """
                with changed as (update legs set miles = @miles where load_id = @load and seq = 1 returning id)
                insert into legs (load_id, seq, miles) select @load, 1, @miles where not exists (select 1 from changed)
                """,
                ("load", id),
                ("miles", load.Miles ?? 0)
            );
        }
    }

    /// <summary>Stores what was collected on delivery; nulls when it is not known any more.</summary>
    public static Task SetCod(CommandContext w, long loadId, decimal? collected, CodMethod? method) =>
        w.Db.Run(
            """
            update loads set cod_collected = @collected, cod_method = @method, cod_collected_at = case when @collected::numeric is not null then @now end,
                cod_collected_by = case when @collected::numeric is not null then @by end where id = @id
            """,
            ("id", loadId),
            ("collected", collected),
            ("method", method),
            ("now", w.Now),
            ("by", w.Actor.Name)
        );

    /// <summary>A load's lists other than its stops: rewritten.</summary>
    private static async Task WriteLines(NpgsqlConnection db, long id, BookedLoad load)
    {
        await db.Run(
            """
            with f as (delete from freight_lines where load_id = @id), c as (delete from charges where load_id = @id), r as (delete from
                load_references where load_id = @id)
            delete from custom_values where load_id = @id
            """,
            ("id", id)
        );
        for (var i = 0; i < load.Freight.Count; i++)
        {
            var f = load.Freight[i];
            await db.Run(
                """
                insert into freight_lines (load_id, seq, description, pieces, pallets, weight_lb, temperature_f, length_in, width_in,
                    height_in, hazmat, un_number, hazmat_name, hazard_class, packing_group, emergency_phone, stackable, freight_class, product_id, gallons, own_compartments,
                    vehicle_year, vehicle_make, vehicle_model, vin, body_style, runs, has_keys)
                values (@load, @seq, @description, @pieces, @pallets, @weight, @temp, @length, @width, @height, @hazmat, @un, @name,
                    @class, @group, @phone, @stackable, @freightClass, @product, @gallons, @own, @year, @make, @model, @vin, @body, @runs, @keys)
                """,
                ("load", id),
                ("seq", i + 1),
                ("description", f.Description),
                ("pieces", f.Pieces),
                ("pallets", f.Pallets),
                ("weight", f.WeightLb),
                ("temp", f.TemperatureF),
                ("length", f.LengthIn),
                ("width", f.WidthIn),
                ("height", f.HeightIn),
                ("hazmat", f.IsHazmat),
                ("un", f.Hazmat.UnNumber),
                ("name", f.Hazmat.Name),
                ("class", f.Hazmat.Class),
                ("group", f.Hazmat.PackingGroup),
                ("phone", f.Hazmat.EmergencyPhone),
                ("stackable", f.Stackable),
                ("freightClass", f.FreightClass),
                ("product", f.Bulk?.ProductId),
                ("gallons", f.Bulk?.Gallons),
                ("own", f.Bulk?.OwnCompartments == true),
                ("year", f.Vehicle?.Year),
                ("make", f.Vehicle?.Make),
                ("model", f.Vehicle?.Model),
                ("vin", f.Vehicle?.Vin),
                ("body", f.Vehicle?.Body),
                ("runs", f.Vehicle?.Runs),
                ("keys", f.Vehicle?.Keys)
            );
        }

        await AddCharges(db, id, load.Charges, 0);
        for (var i = 0; i < load.References.Count; i++)
        {
            await db.Run(
                "insert into load_references (load_id, seq, kind, value, stop_seq) values (@load, @seq, @kind, @value, @stop)",
                ("load", id),
                ("seq", i + 1),
                ("kind", load.References[i].Kind),
                ("value", load.References[i].Value),
                ("stop", load.References[i].Stop)
            );
        }

        foreach (var (field, value) in load.CustomFields)
        {
            await db.Run(
                "insert into custom_values (load_id, field_id, value) values (@load, @field, @value)",
                ("load", id),
                ("field", field),
                ("value", value)
            );
        }
    }

    /// <summary>Adds charges to a load's, after those it has.</summary>
    private static async Task AddCharges(NpgsqlConnection db, long id, IReadOnlyList<BookedCharge> charges, int existing)
    {
        for (var i = 0; i < charges.Count; i++)
        {
            var c = charges[i];
            await db.Run(
                """
                insert into charges (load_id, seq, kind, description, basis, rate, quantity, minimum, amount, authorized_by, authorized_on,
                    authorization_reference, rating) values (@load, @seq, @kind, @description, @basis, @rate, @quantity, @minimum, @amount,
                    @by, @on, @reference, @rating::jsonb)
                """,
                ("load", id),
                ("seq", existing + i + 1),
                ("kind", c.Kind),
                ("description", c.Description),
                ("basis", c.Price.Basis),
                ("rate", c.Price.Rate),
                ("quantity", c.Price.Quantity),
                ("minimum", c.Price.Minimum),
                ("amount", c.Amount),
                ("by", c.Authorization?.By),
                ("on", c.Authorization?.On),
                ("reference", c.Authorization?.Reference),
                ("rating", ClassRatesStore.Stored(c.Price.Rating))
            );
        }
    }

    /// <summary>Adds charges to a load that is billed, and to its revenue.</summary>
    public static async Task AppendCharges(CommandContext w, long id, IReadOnlyList<BookedCharge> charges)
    {
        var existing = await w.Db.One<int>("select coalesce(max(seq), 0) from charges where load_id = @id", ("id", id));
        await AddCharges(w.Db, id, charges, existing);
        await w.Db.Run(
            "update loads set revenue = revenue + @amount where id = @id",
            ("id", id),
            ("amount", Money.Sum(charges.Select(c => c.Amount)))
        );
    }
}
