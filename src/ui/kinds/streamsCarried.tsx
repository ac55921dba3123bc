'use client';
import { StreamsFigures } from '../storage/StreamsFigures';
import { volumeView } from './shared/storage';

export const streamsCarried = volumeView<'streams-carried'>(StreamsFigures);
