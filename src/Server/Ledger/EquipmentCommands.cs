using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Paying;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;

namespace SteadyLark.Server.Ledger;

/// <param name="Proceeds">What the buyer pays; zero for scrap.</param>
public sealed record SellAssetRequest(LocalDate? SoldOn, Money? Proceeds);

/// <summary>Equipment that the company owns: bought, depreciated each month, sold; and the loans that pay for it.</summary>
public static class EquipmentCommands
{
    public static void MapEquipment(this RouteGroupBuilder api)
    {
        api.MapGet("/assets", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await EquipmentStore.All(db);
            })
            .Needs(Right.LedgerSee)
            .WithName("listAssets");

        api.MapPost("/assets", (AssetOrder request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => Buy(w, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("addAsset");

        api.MapPost("/assets/{id:long}/sell", (long id, SellAssetRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => Sell(w, id, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("sellAsset");

        api.MapPost("/assets/{id:long}/reverse-sale", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => ReverseSale(w, id))
            )
            .Needs(Right.LedgerPost)
            .WithName("reverseAssetSale");

        api.MapPost("/loans/{id:long}/payments", (long id, PayoutRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => PayLoan(w, id, request))
            )
            .Needs(Right.PayingPay)
            .WithName("payLoan");

        api.MapPost("/loan-payments/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => ReverseLoanPayment(w, id))
            )
            .Needs(Right.PayingPay)
            .WithName("reverseLoanPayment");
    }

    public static async Task<Outcome<AssetRow>> Buy(CommandContext w, AssetOrder request)
    {
        var bought = Asset.Check(request, w.Today);
        if (!bought.Ok)
        {
            return bought.Problems;
        }

        if (request.TruckId is { } truck && !await Records.Exists(w.Db, RecordKind.Truck, truck))
        {
            return new Problem("unknown", "This truck was not found.", "truckId");
        }

        var (asset, loan) = bought.Value;
        var id = await EquipmentStore.Add(w, asset, request.TruckId, loan);
        var on = await LedgerStore.PostingDay(w, asset.InService);
        await LedgerStore.Post(w, Postings.EquipmentBought(on, asset, id, request.TruckId, loan));
        w.Record(
            EventKinds.AssetChanged,
            id,
            $"{asset.Name} bought for {asset.Cost.Formatted}{(loan is null ? "" : $", {loan.Principal.Formatted} of it by a loan of {loan.Lender}")}"
        );
        return (await EquipmentStore.Get(w.Db, id))!;
    }

    public static async Task<Outcome<AssetRow>> Sell(CommandContext w, long id, SellAssetRequest request)
    {
        if (await EquipmentStore.Get(w.Db, id, locked: true) is not { } row)
        {
            return Problem.Missing("This asset");
        }

        var sold = row.Asset.Sell(request.SoldOn, request.Proceeds, w.Today);
        if (!sold.Ok)
        {
            return sold.Problems;
        }

        var (day, proceeds, gain) = sold.Value;
        var on = await LedgerStore.PostingDay(w, day);
        // Months that are not closed yet are depreciated with the sale.
        var depreciated = (row.Asset with { SoldOn = day }).DepreciatedBy(day);
        if (depreciated != row.Depreciated)
        {
            await EquipmentStore.Depreciate(w, id, BookPeriods.MonthOf(day), depreciated - row.Depreciated);
        }

        await EquipmentStore.Sell(w, id, day, proceeds);
        await LedgerStore.Post(
            w,
            Postings.EquipmentSold(on, row.Asset, id, row.TruckId, proceeds, depreciated, depreciated - row.Depreciated)
        );
        w.Record(
            EventKinds.AssetChanged,
            id,
            $"{row.Name} sold for {proceeds.Formatted}, {(gain.Amount < 0 ? "a loss" : "a gain")} of {Money.Usd(Math.Abs(gain.Amount)).Formatted}"
        );
        return (await EquipmentStore.Get(w.Db, id))!;
    }

    public static async Task<Outcome<AssetRow>> ReverseSale(CommandContext w, long id)
    {
        if (await EquipmentStore.Get(w.Db, id, locked: true) is not { } row)
        {
            return Problem.Missing("This asset");
        }

        if (row.SoldOn is not { } sold)
        {
            return new Problem("asset.in.use", $"{row.Name} is not sold.");
        }

        await EquipmentStore.UndepreciateSale(w, id, sold);
        await EquipmentStore.Unsell(w, id);
        await LedgerStore.Reverse(w, EntrySource.EquipmentSale, id, EntrySource.EquipmentSale, $"Sale of {row.Name} reversed");
        w.Record(EventKinds.AssetChanged, id, $"Sale of {row.Name} reversed");
        return (await EquipmentStore.Get(w.Db, id))!;
    }

    public static async Task<Outcome<AssetRow>> PayLoan(CommandContext w, long loanId, PayoutRequest request)
    {
        if (
            await EquipmentStore.AssetOf(w.Db, loanId, null) is not { } asset
            || await EquipmentStore.Get(w.Db, asset, locked: true) is not { Loan: { } loan } row
        )
        {
            return Problem.Missing("This loan");
        }

        var validation = new Validation();
        var payout = await BillCommands.ReadPayout(w, request, validation, approvedBy: null);
        if (loan.Next is not { } next)
        {
            validation.Add("loan.paid", $"The loan of {loan.Lender} is paid back.");
            return validation.Problems;
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var on = await LedgerStore.PostingDay(w, payout.On);
        var id = await EquipmentStore.AddPayment(w, loanId, next, payout, on);
        await LedgerStore.Post(w, Postings.LoanPaid(on, loan.Loan, id, row.TruckId, next));
        w.Record(EventKinds.AssetChanged, asset, $"Loan of {loan.Lender} for {row.Name}: payment {next.Number} of {next.Amount.Formatted}");
        return (await EquipmentStore.Get(w.Db, asset))!;
    }

    public static async Task<Outcome<AssetRow>> ReverseLoanPayment(CommandContext w, long id)
    {
        if (
            await EquipmentStore.AssetOf(w.Db, null, id) is not { } asset
            || await EquipmentStore.Get(w.Db, asset, locked: true) is not { Loan: { } loan } row
        )
        {
            return Problem.Missing("This payment");
        }

        var payment = loan.Payments.Single(p => p.Id == id);
        if (!payment.Stands || loan.Payments.Any(p => p.Stands && p.Number > payment.Number))
        {
            return new Problem("payment.reversed", "Only the last payment of a loan that stands can be reversed.");
        }

        await EquipmentStore.ReversePayment(w, id);
        await LedgerStore.Reverse(w, EntrySource.LoanPayment, id, EntrySource.LoanPayment, $"Loan payment to {loan.Lender} reversed");
        w.Record(EventKinds.AssetChanged, asset, $"Loan of {loan.Lender} for {row.Name}: payment {payment.Number} reversed");
        return (await EquipmentStore.Get(w.Db, asset))!;
    }

    /// <summary>Accrues interest of all loans through a month that is closed.</summary>
    internal static async Task AccrueInterest(CommandContext w, LocalDate month)
    {
        var last = month.With(DateAdjusters.EndOfMonth);
        var accrued = (await EquipmentStore.All(w.Db))
            .Where(row => row.Loan is not null && row.InService <= last)
            .Select(row =>
                (row.TruckId, Amount: row.Loan!.Loan.Accrued(last, row.Loan.Payments.Count(p => p.Stands && p.PostedOn <= last)))
            )
            .Where(a => a.Amount.Amount > 0)
            .ToList();
        await LedgerStore.Post(w, Postings.InterestAccrued(month, accrued));
    }

    /// <summary>Depreciates all equipment through a month that is closed.</summary>
    internal static async Task Depreciate(CommandContext w, LocalDate month)
    {
        var due = new List<(long? TruckId, Money Amount)>();
        foreach (var row in await EquipmentStore.All(w.Db))
        {
            var amount = row.Asset.DepreciatedBy(month) - row.Depreciated;
            if (amount.Amount != 0 && BookPeriods.MonthOf(row.InService) <= month)
            {
                await EquipmentStore.Depreciate(w, row.Id, month, amount);
                due.Add((row.TruckId, amount));
            }
        }

        if (due.Count > 0)
        {
            await LedgerStore.Post(w, Postings.Depreciated(month, due));
        }
    }
}
