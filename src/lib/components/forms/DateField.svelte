<script lang="ts">
	import CalendarIcon from '@lucide/svelte/icons/calendar';
	import ChevronLeftIcon from '@lucide/svelte/icons/chevron-left';
	import ChevronRightIcon from '@lucide/svelte/icons/chevron-right';
	import { DatePicker, parseDate, Portal } from '@skeletonlabs/skeleton-svelte';
	import type { Attachment } from 'svelte/attachments';
	import type { HTMLAttributes } from 'svelte/elements';
	import { page } from '$app/state';
	import { type CalendarDate, showDate } from '../../../core/calendar.ts';
	import { readTypedDate, TYPED_DATE_HINT } from '../../../core/typed-date.ts';

	interface Props {
		/** The date; empty: none. */
		value?: CalendarDate | '';
		/** The field's name in a form, which sends the date as YYYY-MM-DD. */
		name?: string;
		required?: boolean;
		/** The first day that may be given. */
		min?: CalendarDate;
		/** Whether an age typed without "ago" or "in" is about days gone by. */
		about?: 'past' | 'future';
		/** On the text field. */
		attach?: Attachment<HTMLInputElement>;
	}
	let { value = $bindable(''), name, required = false, min, about = 'future', attach }: Props = $props();

	let input = $state<HTMLInputElement>();
	/* As it is typed; afterwards as dates are shown everywhere. */
	let typed = $state<string>();
	const shown = $derived(typed ?? (value ? showDate(value) : ''));
	const picked = $derived(value ? [parseDate(value)] : []);

	/* @returns what is wrong with it; empty: nothing */
	function wrongWith(text: string, date: CalendarDate | undefined): string {
		if (text.trim() === '') return '';
		if (date === undefined) return `${TYPED_DATE_HINT}.`;
		return min !== undefined && date < min ? `Give a day from ${showDate(min)} on.` : '';
	}

	function read(text: string) {
		typed = text;
		const date = readTypedDate(text, page.data.today, about);
		const wrong = wrongWith(text, date);
		input?.setCustomValidity(wrong);
		value = wrong === '' ? (date ?? '') : '';
	}

	function pick(date: string | undefined) {
		if (date === undefined) return;
		typed = undefined;
		value = date;
		input?.setCustomValidity('');
	}

	// given from elsewhere, as by a button beside the field
	$effect(() => {
		if (!value || typed === undefined) return;
		if (readTypedDate(typed, page.data.today, about) !== value) pick(value);
	});

	/* A form that is emptied empties the date as well, which its hidden field would keep. */
	const withForm: Attachment<HTMLInputElement> = (field) => {
		const { form } = field;
		const empty = () => {
			typed = undefined;
			value = '';
		};
		form?.addEventListener('reset', empty);
		return () => form?.removeEventListener('reset', empty);
	};

	/* A date that was read is shown as all dates are; one that was not stays to be mended. */
	function settle() {
		if (value || typed?.trim() === '') typed = undefined;
	}
</script>

<DatePicker
	value={picked}
	onValueChange={({ valueAsString }) => pick(valueAsString[0])}
	format={(date) => date.toString()}
	locale="en-GB"
	timeZone="UTC"
	startOfWeek={1}
	min={min === undefined ? undefined : parseDate(min)}
	positioning={{ placement: 'bottom-end' }}
>
	{#snippet element(attributes)}
		<span {...attributes as HTMLAttributes<HTMLSpanElement>} class="inline-flex! flex-row! items-stretch gap-0!">
			<input
				bind:this={input}
				class="field w-36 rounded-r-none!"
				type="text"
				autocomplete="off"
				title={TYPED_DATE_HINT}
				placeholder="4 Mar 2024"
				value={shown}
				{required}
				maxlength="40"
				oninput={(event) => read(event.currentTarget.value)}
				onblur={settle}
				{@attach withForm}
				{@attach attach}
			/>
			{#if name}<input type="hidden" {name} {value} />{/if}
			<DatePicker.Control>
				{#snippet element(control)}
					<span {...control as HTMLAttributes<HTMLSpanElement>} class="flex! flex-row! items-stretch!">
						<DatePicker.Trigger
							class="quiet static! aspect-auto! h-auto! w-9! justify-center! rounded-l-none! border-l-0! p-0!"
							aria-label="Open the calendar"><CalendarIcon size={16} aria-hidden="true" /></DatePicker.Trigger
						>
					</span>
				{/snippet}
			</DatePicker.Control>
			<Portal>
				<DatePicker.Positioner class="z-50!">
					<DatePicker.Content class="bg-sheet border-rule-strong border p-3 shadow-xl">
						<DatePicker.View view="day">
							<DatePicker.Context>
								{#snippet children(picker)}
									<DatePicker.ViewControl class="mb-2 flex items-center justify-between gap-2">
										<DatePicker.PrevTrigger class="quiet px-1.5!" aria-label="Previous month"
											><ChevronLeftIcon size={16} aria-hidden="true" /></DatePicker.PrevTrigger
										>
										<span class="flex gap-1">
											<DatePicker.MonthSelect class="field w-32! py-0.5" />
											<DatePicker.YearSelect class="field py-0.5" />
										</span>
										<DatePicker.NextTrigger class="quiet px-1.5!" aria-label="Next month"
											><ChevronRightIcon size={16} aria-hidden="true" /></DatePicker.NextTrigger
										>
									</DatePicker.ViewControl>
									<DatePicker.Table class="days">
										<DatePicker.TableHead>
											<DatePicker.TableRow>
												{#each picker().weekDays as day (day.short)}<DatePicker.TableHeader
														>{day.short.slice(0, 2)}</DatePicker.TableHeader
													>{/each}
											</DatePicker.TableRow>
										</DatePicker.TableHead>
										<DatePicker.TableBody>
											{#each picker().weeks as week, at (at)}
												<DatePicker.TableRow>
													{#each week as day (day.toString())}
														<DatePicker.TableCell value={day}
															><DatePicker.TableCellTrigger class="day">{day.day}</DatePicker.TableCellTrigger
															></DatePicker.TableCell
														>
													{/each}
												</DatePicker.TableRow>
											{/each}
										</DatePicker.TableBody>
									</DatePicker.Table>
								{/snippet}
							</DatePicker.Context>
						</DatePicker.View>
					</DatePicker.Content>
				</DatePicker.Positioner>
			</Portal>
		</span>
	{/snippet}
</DatePicker>

<style>
	:global(.days th) {
		font-size: 0.75rem;
		font-weight: 400;
		color: var(--ink-soft);
	}
	:global(.day) {
		display: grid;
		place-items: center;
		width: 2.1rem;
		height: 2rem;
		font-variant-numeric: tabular-nums;
		cursor: pointer;
	}
	:global(.day:hover),
	:global(.day[data-focus]) {
		background: var(--stamp-soft);
	}
	:global(.day[data-selected]) {
		background: var(--stamp);
		color: var(--sheet);
	}
	:global(.day[data-today]) {
		outline: 1px solid var(--rule-strong);
	}
	:global(.day[data-outside-range]),
	:global(.day[data-disabled]) {
		color: var(--ink-soft);
		opacity: 0.6;
	}
</style>
